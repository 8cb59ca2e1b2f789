// Renamings of fluents that leave the rules and the start as they are, and what they do to keys.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "explore/position_code.hpp"

namespace orchard::explore {

// By fluent, where it comes from; the identity is left out. Together with it they are a group.
using Renamings = std::vector<std::vector<std::uint32_t>>;

// Of a game from its start; none if there are too many, they cannot be found, or games begin
// elsewhere.
Renamings renamings_of(const LaneGame& game, std::span<const std::uint64_t> start);

// What becomes of a position.
std::vector<std::uint64_t> renamed(std::span<const std::uint64_t> row,
                                   const std::vector<std::uint32_t>& renaming);

// Whether what a code can write is renamed to what it can write.
bool keeps_code(const PositionCode& code, const Renamings& renamings);

// Those that differ in what they do to the fluents of a code that they keep.
Renamings renamings_within(const Renamings& renamings, const PositionCode& code);

}  // namespace orchard::explore
