// What a match of a series adds to it.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "orchard/match.hpp"

namespace orchard {

struct PlayedMatch {
  std::uint64_t plies = 0;
  bool finished = false;
  std::optional<std::size_t> forfeited_by;  // player
  bool late = false;                        // forfeited by a move that took too long
  // By player:
  std::vector<double> goals;
  std::vector<Standing> standings;
  std::vector<double> seconds;
  std::vector<std::uint64_t> choices;
  std::string record;  // the whole match as JSON lines, if that was wanted
};

}  // namespace orchard
