// A census on keys: many millions of positions a second, a few bytes each.
//
// Positions are the keys of a code (`position_code.hpp`) that is fitted to random games and mended
// where exploring shows that it does not fit: then counting begins anew. Where a measure tells
// depths apart, only the layer being left and the one being entered are kept; else every key ever
// reached: as a bit for each key there could be, in sets or in coded runs (`key_store.hpp`).
// Everything that is taken from random games is checked in every position, so the counts are exact.
#pragma once

#include <optional>

#include "game/lane_game.hpp"
#include "orchard/census.hpp"

namespace orchard::explore {

// None if positions take too many bits, or the game has too many joint moves. `start` is a row of
// the game. Fails if a checkpoint cannot be read or written.
Result<std::optional<Census>> keyed_census(const LaneGame& game,
                                           std::span<const std::uint64_t> start,
                                           const CensusOptions& options);

}  // namespace orchard::explore
