// Playouts in lanes: hundreds of games side by side. Inner part of `run_playouts`.
#pragma once

#include <optional>

#include "orchard/playouts.hpp"

namespace orchard {

// None if the game or the position cannot be played in lanes, or the options ask for the reference.
std::optional<PlayoutStatistics> lane_playouts(const Game& game, const Position& from,
                                               const PlayoutOptions& options);

}  // namespace orchard
