// Whether the rules are the same for two roles, beginning apart.
#include <fmt/core.h>

#include <algorithm>

#include "explore/symmetry/symmetry.hpp"
#include "review/questions/questions.hpp"

namespace orchard::review {

namespace {

using ground::GroundProgram;

enum class Start { same, other_turn, other };

// What becomes of the start: whose turn it is differs if one fluent of a name holds there, and
// another of that name after the renaming.
Start start_after(const GroundProgram& ground, const explore::Automorphism& renaming) {
  const std::vector<bool> start = ground.initial();
  std::vector<std::uint32_t> changed;
  for (std::uint32_t f = 0; f < start.size(); ++f) {
    if (start[f] != start[renaming.fluents[f]]) changed.push_back(renaming.fluents[f]);
  }
  if (changed.empty()) return Start::same;
  if (changed.size() != 2) return Start::other;
  const auto& first = ground.terms()[ground.fluents()[changed[0]].term];
  std::size_t at_start = 0;
  std::size_t of_name = 0;
  for (std::uint32_t f = 0; f < start.size(); ++f) {
    const auto& fluent = ground.terms()[ground.fluents()[f].term];
    if (fluent.symbol != first.symbol || fluent.arity != first.arity) continue;
    at_start += start[f] ? 1 : 0;
    of_name += std::ranges::count(changed, f) > 0 ? 1 : 0;
  }
  return at_start == 1 && of_name == 2 ? Start::other_turn : Start::other;
}

bool keeps_moves(const explore::Automorphism& renaming) {
  for (const auto& moves : renaming.moves) {
    for (std::uint32_t m = 0; m < moves.size(); ++m) {
      if (moves[m] != m) return false;
    }
  }
  return true;
}

}  // namespace

Conclusion ask_alike(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  std::vector<std::size_t> players;
  for (const Role& role : exploration.game().roles()) {
    if (!role.is_chance()) players.push_back(role.index());
  }
  if (players.size() < 2) return nullptr;
  return [&exploration, players](Findings&) {
    const auto whole = LaneGame::instantiate(*GameAccess::core(exploration.game()), false,
                                             ground::Splitting::none());
    if (!whole) {
      return std::vector{
          Answer{"alike", Verdict::described, {"not known: the rules are too large"}}};
    }
    const GroundProgram& ground = **whole;
    explore::SymmetryFinder finder(ground);
    struct Pair {
      std::string who;
      std::string how;
    };
    std::vector<Pair> pairs;
    bool all_looked_at = true;
    for (std::size_t i = 0; i < players.size(); ++i) {
      for (std::size_t j = i + 1; j < players.size(); ++j) {
        std::optional<explore::Automorphism> found;
        const bool looked =
            finder.each_between(players[i], players[j], [&](const explore::Automorphism& one) {
              if (start_after(ground, one) == Start::other) return true;
              found = one;
              return false;
            });
        all_looked_at = all_looked_at && (looked || found);
        if (!found) continue;
        const std::string turn =
            start_after(ground, *found) == Start::same ? "" : " except for whose turn it is";
        pairs.push_back({joined_roles(exploration, {players[i], players[j]}),
                         turn + (keeps_moves(*found) ? "" : ", with moves renamed")});
      }
    }
    std::string text;
    const bool all_pairs = pairs.size() == players.size() * (players.size() - 1) / 2;
    const bool one_way =
        std::ranges::all_of(pairs, [&](const Pair& pair) { return pair.how == pairs.front().how; });
    if (pairs.size() > 1 && all_pairs && one_way) {
      text = joined_roles(exploration, players) + " are all alike" + pairs.front().how;
    } else {
      for (const Pair& pair : pairs) {
        text += (text.empty() ? "" : "; ") + pair.who + " are alike" + pair.how;
      }
    }
    if (text.empty()) {
      text = all_looked_at
                 ? "no two roles have the same rules, not even with moves and fluents renamed"
                 : "not known: the rules are too large to look for a renaming";
    }
    return std::vector{Answer{"alike", Verdict::described, {text}}};
  };
}

}  // namespace orchard::review
