// Whether the rules are the same for two roles, beginning apart.
#include <fmt/core.h>

#include <algorithm>

#include "explore/symmetry.hpp"
#include "review/inquiry.hpp"

namespace orchard::review {

namespace {

using ground::GroundProgram;

// Whether the start is mapped to itself, but for one fluent of a name that tells whose turn it is:
// at the start one of that name holds, and another of it after the renaming.
bool keeps_start(const GroundProgram& ground, const explore::Automorphism& renaming) {
  const std::vector<bool> start = ground.initial();
  std::vector<std::uint32_t> changed;
  for (std::uint32_t f = 0; f < start.size(); ++f) {
    if (start[f] != start[renaming.fluents[f]]) changed.push_back(renaming.fluents[f]);
  }
  if (changed.empty()) return true;
  if (changed.size() != 2) return false;
  const auto& first = ground.terms()[ground.fluents()[changed[0]].term];
  const auto& second = ground.terms()[ground.fluents()[changed[1]].term];
  if (first.symbol != second.symbol || first.arity != second.arity) return false;
  std::size_t at_start = 0;
  for (std::uint32_t f = 0; f < start.size(); ++f) {
    const auto& fluent = ground.terms()[ground.fluents()[f].term];
    at_start += start[f] && fluent.symbol == first.symbol && fluent.arity == first.arity ? 1 : 0;
  }
  return at_start == 1;
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

Conclusion ask_alike(Inquiry& inquiry) {
  const Exploration& exploration = inquiry.exploration();
  std::vector<std::size_t> players;
  for (const Role& role : exploration.game().roles()) {
    if (!role.is_chance()) players.push_back(role.index());
  }
  if (players.size() < 2) return nullptr;
  return [&exploration, players] {
    const auto whole = LaneGame::instantiate(*GameAccess::core(exploration.game()), false,
                                             ground::Splitting::none());
    if (!whole) {
      return std::vector{Answer{"alike", Verdict::described, "not known: the rules are too large"}};
    }
    const GroundProgram& ground = **whole;
    explore::SymmetryFinder finder(ground);
    std::string text;
    bool all_looked_at = true;
    for (std::size_t i = 0; i < players.size(); ++i) {
      for (std::size_t j = i + 1; j < players.size(); ++j) {
        std::optional<explore::Automorphism> found;
        const bool looked =
            finder.each_between(players[i], players[j], [&](const explore::Automorphism& one) {
              if (!keeps_start(ground, one)) return true;
              found = one;
              return false;
            });
        all_looked_at = all_looked_at && (looked || found);
        if (!found) continue;
        text += fmt::format("{}{} and {} are alike{}", text.empty() ? "" : "; ",
                            exploration.game().roles()[players[i]].name(),
                            exploration.game().roles()[players[j]].name(),
                            keeps_moves(*found) ? "" : ", with moves renamed");
      }
    }
    if (text.empty()) {
      text = all_looked_at ? "no renaming of moves and fluents makes one role another"
                           : "not known: the rules are too large to look for a renaming";
    } else {
      text += "; whose turn it is apart";
    }
    return std::vector{Answer{"alike", Verdict::described, text}};
  };
}

}  // namespace orchard::review
