// Small edits of a description after which its cases and claims pass.
//
//   orchard::MendOptions options;
//   options.cases = "pots.cases";
//   auto mended = orchard::mend_rules("pots.gdl", options).value();
//   for (const orchard::Repair& repair : mended.repairs) std::cout << repair.change << "\n";
//
// Tried are single edits of the kinds that people make by mistake (see faults.hpp), the same turned
// round (a condition or a rule built like one that is there, and added), every other name, number
// or variable that could stand somewhere. Of those after which every case and claim passes, the
// ones that make no question of a review worse come first. Nothing is written. Any thread may call.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "orchard/compare.hpp"
#include "orchard/faults.hpp"
#include "orchard/game.hpp"

namespace orchard {

// An edit that mends.
struct Repair {
  // What kind of edit it is.
  FaultKind kind = FaultKind::condition_added;
  // Where it is made.
  Place place{};
  // What is done, in words: "(not (filled ?pot)) is added".
  std::string change{};
  // The lines of the file that change, as they are and as they would be.
  std::string before{};
  // The same lines after the edit.
  std::string after{};
  // The whole description after the edit.
  std::string text{};
  // How many questions of a review it makes worse.
  std::size_t worse_questions = 0;
  // How it changes the game; the first is the description as it is.
  Comparison compared{};
};

// All that was found.
struct Mending {
  // The likeliest first.
  std::vector<Repair> repairs{};
  // The number of edits that were tried, and that there are.
  std::size_t tried = 0;
  // The number of edits that there are.
  std::size_t possible = 0;
  // Why trying ended.
  Ending ending = Ending::complete;
};

// Who says what is right, and what it may cost.
struct MendOptions {
  // How descriptions are read.
  LoadOptions load{};
  // The file of cases; it or the claims are needed.
  std::optional<std::string> cases{};
  // The file of claims.
  std::optional<std::string> claims{};
  // Reads boards that are drawn in cases, by the game that they are for.
  std::function<DrawingReader(const Game&)> reader{};
  // `positions`: that a review or a comparison looks at for one edit, 20 000 if not set.
  Budget budget{};
  // How many edits are tried at once.
  unsigned threads = 1;
  // The most repairs that are given.
  std::size_t most = 10;
};

// Looks for repairs of a file. Fails if the description, its cases or its claims do not read, with
// `nothing-fails` if every case and claim passes, and with `not-prefix` for the infix syntax.
// Called after each edit, if given: `visit`, with those that are done.
Result<Mending> mend_rules(const std::string& path, const MendOptions& options,
                           const std::function<void(std::size_t done)>& visit = {});

}  // namespace orchard
