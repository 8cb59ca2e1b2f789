#include "orchard/match.hpp"

#include <fmt/core.h>

#include <algorithm>

namespace orchard {
namespace {
constexpr std::size_t most_tracked = 20'000;  // positions that a role takes for possible
}  // namespace

Outcome outcome_of(const Game& game, const Position& position) {
  Outcome outcome;
  bool complete = true;
  int highest = 0;
  for (const Role& role : game.roles()) {
    outcome.values.push_back(game.goals(position, role));
    if (role.is_chance()) continue;
    const auto value = game.goal(position, role);
    complete = complete && value.has_value();
    if (!complete) continue;
    if (outcome.best.empty() || *value > highest) {
      outcome.best.clear();
      highest = *value;
    }
    if (*value == highest) outcome.best.push_back(role);
  }
  if (!complete) outcome.best.clear();
  return outcome;
}

std::string describe(const Game& game, const Outcome& outcome,
                     const std::map<std::string, std::string>& names) {
  const auto called = [&](const Role& role) {
    const auto name = names.find(role.name());
    return name == names.end() ? role.name() : fmt::format("{} ({})", name->second, role.name());
  };
  std::string values;
  std::size_t players = 0;
  for (const Role& role : game.roles()) {
    if (role.is_chance()) continue;
    ++players;
    values += fmt::format("{}{}", values.empty() ? "" : ", ", role.name());
    for (const Term& value : outcome.values[role.index()]) values += " " + value.to_string();
    if (outcome.values[role.index()].empty()) values += " no value";
  }
  if (outcome.best.empty()) return fmt::format("no result ({})", values);
  if (players == 1) {
    const Role& only = outcome.best.front();
    return fmt::format("{} scores {}", called(only),
                       outcome.values[only.index()].front().to_string());
  }
  if (outcome.is_win()) return fmt::format("{} wins ({})", called(outcome.best.front()), values);
  if (outcome.best.size() == players) return fmt::format("draw ({})", values);
  std::string shared;
  for (const Role& role : outcome.best) shared += (shared.empty() ? "" : " and ") + called(role);
  return fmt::format("{} share the win ({})", shared, values);
}

void Score::count(const Game& game, const Outcome& outcome) {
  lines.resize(game.roles().size());
  if (outcome.best.empty()) return;
  for (const Role& role : game.roles()) {
    if (role.is_chance()) continue;
    Line& line = lines[role.index()];
    const bool best = std::ranges::find(outcome.best, role) != outcome.best.end();
    ++(!best ? line.losses : outcome.is_win() ? line.wins : line.draws);
  }
}

Match::Match(Game game, std::optional<Position> start) : game_(std::move(game)) {
  positions_.push_back(start ? *start : game_.initial());
}

std::vector<Role> Match::stuck() const {
  std::vector<Role> result;
  if (game_.terminal(position())) return result;
  for (const Role& role : game_.roles()) {
    if (game_.legal(position(), role).empty()) result.push_back(role);
  }
  return result;
}

bool Match::over() const {
  return game_.terminal(position()) || !stuck().empty();
}

Diagnostics Match::play(const JointMove& joint) {
  auto next = game_.next(position(), joint);
  if (!next) return next.diagnostics();
  positions_.push_back(*next);
  joints_.push_back(joint);
  undone_.clear();
  return {};
}

bool Match::undo() {
  if (joints_.empty()) return false;
  undone_.push_back(std::move(joints_.back()));
  joints_.pop_back();
  positions_.pop_back();
  tracked_.clear();
  return true;
}

bool Match::redo() {
  if (undone_.empty()) return false;
  std::vector<JointMove> undone = std::move(undone_);
  const JointMove joint = std::move(undone.back());
  undone.pop_back();
  (void)play(joint);  // it was legal here before
  undone_ = std::move(undone);
  return true;
}

void Match::begin_again() {
  positions_.erase(positions_.begin() + 1, positions_.end());
  joints_.clear();
  undone_.clear();
  tracked_.clear();
}

Situation Match::situation(const Role& role, const std::vector<Move>& legal) {
  Situation result{game_, game_.roles()[role.index()], position(), legal, ply(), {}, {}, nullptr};
  if (game_.has_hidden_information() && !role.is_chance()) {
    const auto [known, is_new] =
        tracked_.try_emplace(role.index(), Tracked{View(game_, role, start(), most_tracked), 0});
    Tracked& tracked = known->second;
    for (; tracked.ply < ply(); ++tracked.ply) {
      (void)tracked.view.advance(positions_[tracked.ply], joints_[tracked.ply]);
    }
    result.view = &tracked.view;
  }
  if (!joints_.empty()) {
    result.last_position = positions_[positions_.size() - 2];
    result.own_last_move = joints_.back()[role];
  }
  return result;
}

Diagnostics play_on(Match& match, const std::vector<Opponent*>& opponents,
                    std::uint64_t most_plies) {
  const Game& game = match.game();
  if (opponents.size() != game.roles().size()) {
    throw std::logic_error("play_on needs one opponent for each role");
  }
  while (!match.over() && match.ply() < most_plies) {
    JointMove joint;
    for (const Role& role : game.roles()) {
      const std::vector<Move> legal = game.legal(match.position(), role);
      joint.add(opponents[role.index()]->choose(match.situation(role, legal)));
    }
    if (auto faults = match.play(joint); !faults.empty()) return faults;
  }
  if (match.over()) {
    for (const Role& role : game.roles()) {
      opponents[role.index()]->match_ended(game, role, match.position());
    }
  }
  return {};
}

}  // namespace orchard
