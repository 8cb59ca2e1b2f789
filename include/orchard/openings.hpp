// What records of many matches have in common: which moves they begin with, how often, and how they
// came out.
//
//   auto tree = orchard::openings_of(game, matches, {.plies = 4});
//   for (const auto& node : tree.next) std::cout << node.moves << ' ' << node.matches << '\n';
//
// Values; any thread may call.
#pragma once

#include <string>
#include <vector>

#include "orchard/match.hpp"

namespace orchard {

// How far openings are told apart.
struct OpeningOptions {
  // The number of plies.
  std::uint64_t plies = 4;
  // Of the moves that were made at a point of play, those made in fewer matches are summed up.
  std::uint64_t least_matches = 1;
};

// Matches that began alike.
struct Opening {
  // The last ply in which they did: "(tie 1 1)", with roles if several moved: "east (a), west (b)".
  // Empty at the root; "others" for those that were summed up.
  std::string moves;
  // The number of matches.
  std::uint64_t matches = 0;
  // By role, the results of those that came to their end.
  std::vector<Tally> results;
  // How they went on, the most frequent first.
  std::vector<Opening> next;
};

// The openings of matches of one game. O(matches × plies).
Opening openings_of(const Game& game, const std::vector<Match>& matches,
                    const OpeningOptions& options = {});

}  // namespace orchard
