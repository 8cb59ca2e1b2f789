#include "orchard/openings.hpp"

#include <algorithm>
#include <map>

namespace orchard {
namespace {

// The moves of those who were to move; all of them where it was everybody's.
std::string moves_in_words(const Game& game, const Position& before, const JointMove& joint) {
  const std::vector<Role> movers = game.to_move(before);
  std::string text;
  for (const Role& role : movers) {
    if (!text.empty()) text += ", ";
    if (movers.size() > 1) text += role.name() + " ";
    text += joint[role].to_string();
  }
  return text;
}

void count(const Game& game, const Match& match, Opening& opening) {
  ++opening.matches;
  opening.results.resize(game.roles().size());
  if (!match.over()) return;
  const Outcome outcome = outcome_of(game, match.position());
  for (const Role& role : game.roles()) {
    const auto goal = game.goal(match.position(), role).value_or(0);
    opening.results[role.index()].count(outcome.standing(role), static_cast<double>(goal));
  }
}

// Of matches that are alike up to this ply.
Opening opening_of(const Game& game, const std::vector<const Match*>& matches, std::uint64_t ply,
                   const OpeningOptions& options) {
  Opening result;
  for (const Match* const match : matches) count(game, *match, result);
  if (ply == options.plies) return result;
  std::map<JointMove, std::vector<const Match*>> by_moves;
  for (const Match* const match : matches) {
    if (match->ply() > ply) by_moves[match->joints()[ply]].push_back(match);
  }
  std::vector<const Match*> others;
  for (const auto& [joint, alike] : by_moves) {
    if (alike.size() < options.least_matches) {
      others.insert(others.end(), alike.begin(), alike.end());
      continue;
    }
    Opening next = opening_of(game, alike, ply + 1, options);
    next.moves = moves_in_words(game, alike.front()->positions()[ply], joint);
    result.next.push_back(std::move(next));
  }
  std::ranges::stable_sort(result.next, std::greater(), &Opening::matches);
  if (!others.empty()) {
    Opening rest;
    for (const Match* const match : others) count(game, *match, rest);
    rest.moves = "others";
    result.next.push_back(std::move(rest));
  }
  return result;
}

}  // namespace

Opening openings_of(const Game& game, const std::vector<Match>& matches,
                    const OpeningOptions& options) {
  // Matches may begin at different positions; only those that begin alike can be told apart by
  // their moves.
  std::map<std::string, std::vector<const Match*>> by_start;
  for (const Match& match : matches) by_start[match.start().key()].push_back(&match);
  if (by_start.size() == 1) return opening_of(game, by_start.begin()->second, 0, options);
  Opening result;
  for (const Match& match : matches) count(game, match, result);
  std::uint64_t number = 0;
  for (const auto& [key, alike] : by_start) {
    Opening next = opening_of(game, alike, 0, options);
    next.moves = "start " + std::to_string(++number);
    result.next.push_back(std::move(next));
  }
  std::ranges::stable_sort(result.next, std::greater(), &Opening::matches);
  return result;
}

}  // namespace orchard
