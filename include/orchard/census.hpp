// Counting every reachable position of a game, depth by depth.
//
// A position is the set of all its fluents; a step is one joint move, a move of chance included.
// A position counts at the depth at which it is first reached; play does not go on from an end.
// Breadth-first and exact, whatever the store. Positions are kept as a bit for each short key that
// there could be, or as short keys of one to three words, coded in order or in sets: all of them
// or, where fluents that become one more or one less with every ply tell depths apart, two layers
// at a time; or as they are, about 50 bytes for every position and a bit for each fluent of the
// game (without a circuit, one or two bytes for each fluent that holds).
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/game.hpp"

namespace orchard {

// The ways in which a census can keep the positions it has met.
enum class CensusStore {
  automatic,  // plain for a few positions, then a bitmap if it fits, else runs
  plain,      // positions as they are
  keys,       // short keys in sets, all of them
  layers,     // short keys in sets, of two layers where they can be told apart
  runs,       // short keys in order, each as what it is beyond the one before, likewise
  bitmap,     // a bit for every key there could be, likewise; where keys are too long, runs
};

// What to count, and how much memory and time may be used for it.
struct CensusOptions {
  std::optional<std::uint64_t> depth{};        // plies from the start; no bound if not set
  bool sequences = false;                      // count joint-move sequences too
  std::optional<Position> from{};              // the game's start if not set
  unsigned threads = 1;                        // what is counted does not depend on them
  CensusStore store = CensusStore::automatic;  // where keys are too long, plain all the same
  // Keys stand for positions that the rules do not tell apart; counted are positions all the same.
  bool symmetry = true;
  // In runs, what is beyond half of the memory of the budget (of a half of the machine's, if it
  // says nothing) goes into files of this folder, which is made if it is not there; they have no
  // names, and are gone afterwards.
  std::optional<std::string> files{};
  Budget budget{};  // on keys, a number of positions ends it once a depth is counted to the end
};

// The counts for one depth.
struct CensusDepth {
  // The depth, in plies from the start.
  std::uint64_t depth = 0;
  std::uint64_t positions = 0;  // first reached at this depth
  std::uint64_t terminal = 0;   // of them, ends
  std::uint64_t stuck = 0;      // of them, no ends, but some role has no legal move
  // Joint-move sequences of this length, as a decimal number; if asked for, and below 2^128.
  std::optional<std::string> sequences;
};

// The result of a census.
struct Census {
  std::vector<CensusDepth> depths;   // those counted to the end
  bool complete = false;             // every reachable position was counted
  Ending ending = Ending::complete;  // `complete` too if the depth asked for was reached
  std::uint64_t positions = 0;       // all found, those of a depth that was broken off included
  // Seconds that the census took, by the clock.
  double seconds = 0;
  std::string store;             // how positions were kept, in words
  std::uint64_t peak_bytes = 0;  // of memory that kept them
  // The most bytes that were in files at one time.
  std::uint64_t peak_file_bytes = 0;
};

// Fails with `too-large` if the rules cost too much in some position.
Result<Census> take_census(const Game& game, const CensusOptions& options = {});

}  // namespace orchard
