// Best play in one position whose followers have values.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

namespace orchard::solve_inner {

// What follows from each joint move, the first role's choice changing fastest.
struct Followers {
  std::vector<std::size_t> choices;   // by role
  std::optional<std::size_t> chance;  // the role that draws
  std::vector<double> values;         // joint move × roles, 0 to 1
  std::vector<std::uint32_t> plies;   // to the end
  std::vector<std::uint8_t> solved;   // 0: play can go on from there for ever
};

struct Play {
  std::vector<std::vector<double>> shares;  // by role, by its choice
  std::vector<double> values;               // by role, 0 to 1
  std::uint32_t plies = 1;                  // to the end, where one role alone chooses
  bool mixes = false;
};

// Where one role chooses, it takes what is best for itself; two with opposed interests mix; chance
// is averaged over. None where more choose at once, or their interests are not opposed. `nearer`:
// of moves worth the same to whoever does not lose by them, only those that come nearer to the end,
// if there are any: needed where positions come again.
std::optional<Play> best_play(const Followers& followers, bool nearer);

// What each role can make sure of: as if all the others were one, and against it.
Play secured_play(const Followers& followers);

}  // namespace orchard::solve_inner
