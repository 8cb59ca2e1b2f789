// Renamings of fluents that leave the rules and the start as they are.
#pragma once

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "explore/symmetry/symmetry.hpp"
#include "game/lane_game.hpp"

namespace orchard::explore {

// Automorphisms of a game that leave its start as it is, one for each thing they do to fluents, the
// identity left out. None if games begin elsewhere; if they are more than `most`, or the search is
// given up, none either, or a subgroup as large as is found.
// `only`: those wanted; they and the identity must be a group.
enum class TooMany { none, subgroup };
std::vector<Automorphism> automorphisms_of(const LaneGame& game,
                                           std::span<const std::uint64_t> start, std::size_t most,
                                           TooMany too_many,
                                           const std::function<bool(const Automorphism&)>& only);

// By fluent, where it comes from; the identity is left out. Together with it they are a group.
using Renamings = std::vector<std::vector<std::uint32_t>>;

// Of a game from its start; none if there are too many, they cannot be found, or games begin
// elsewhere.
Renamings renamings_of(const LaneGame& game, std::span<const std::uint64_t> start);

// What becomes of a position.
std::vector<std::uint64_t> renamed(std::span<const std::uint64_t> row,
                                   const std::vector<std::uint32_t>& renaming);

}  // namespace orchard::explore
