// A game with many positions, some of them deep, of which some things are hard to prove.
#pragma once

#include <fmt/core.h>

#include <string>

namespace orchard::testing {

// Discs of ten numbers: each alone is soon turned to nine, all together after nine plies for each.
// `odd` holds after every other ply: with all discs as at the start it never does, for which there
// is no short reason.
inline std::string discs(int count) {
  std::string rules =
      "(role miller) (<= (legal miller (turn ?disc)) (disc ?disc))"
      "(<= (init (at ?disc 0)) (disc ?disc)) (goal miller 100)"
      "(<= (next odd) (not (true odd)))"
      "(<= (next (at ?disc ?more)) (does miller (turn ?disc)) (true (at ?disc ?now))"
      "    (after ?now ?more))"
      "(<= (next (at ?disc ?now)) (true (at ?disc ?now)) (not (does miller (turn ?disc))))"
      "(after 9 0) (<= terminal opened) (<= opened";
  for (int disc = 1; disc <= count; ++disc) rules += fmt::format(" (true (at {} 9))", disc);
  rules += ") (<= back";
  for (int disc = 1; disc <= count; ++disc) rules += fmt::format(" (true (at {} 0))", disc);
  rules += ")";
  for (int disc = 1; disc <= count; ++disc) rules += fmt::format("(disc {})", disc);
  for (int now = 0; now < 9; ++now) rules += fmt::format("(after {} {})", now, now + 1);
  return rules;
}

}  // namespace orchard::testing
