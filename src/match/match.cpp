#include "orchard/match.hpp"

#include <fmt/core.h>

#include <algorithm>

namespace orchard {
namespace {
constexpr std::size_t most_tracked = 20'000;  // positions that a role takes for possible

std::vector<Role> stuck_in(const Game& game, const Position& position) {
  std::vector<Role> result;
  if (game.terminal(position)) return result;
  for (const Role& role : game.roles()) {
    if (game.legal(position, role).empty()) result.push_back(role);
  }
  return result;
}

// Of somebody who plays alone.
Standing standing_of(std::int64_t goal) {
  constexpr std::int64_t all = 100;
  return goal >= all ? Standing::won : goal <= 0 ? Standing::lost : Standing::scored;
}

}  // namespace

Outcome outcome_of(const Game& game, const Position& position) {
  Outcome outcome;
  std::vector<std::pair<Role, std::int64_t>> goals;  // of the players with one
  std::size_t players = 0;
  for (const Role& role : game.roles()) {
    outcome.values.push_back(game.goals(position, role));
    outcome.standings.push_back(Standing::none);
    if (role.is_chance()) continue;
    ++players;
    if (const auto goal = game.goal(position, role)) goals.emplace_back(role, *goal);
  }
  outcome.stuck = stuck_in(game, position);
  const auto stands = [&](const Role& role) -> Standing& {
    return outcome.standings[role.index()];
  };
  if (!outcome.stuck.empty()) {
    for (const Role& role : game.roles()) {
      if (!role.is_chance()) stands(role) = Standing::stuck;
    }
    return outcome;
  }
  if (goals.empty() || goals.size() < players) return outcome;
  const auto by_goal = [](const auto& one, const auto& other) { return one.second < other.second; };
  const std::int64_t highest = std::ranges::max_element(goals, by_goal)->second;
  for (const auto& [role, goal] : goals) {
    if (goal == highest) outcome.best.push_back(role);
  }
  for (const auto& [role, goal] : goals) {
    stands(role) = players == 1              ? standing_of(goal)
                   : goal < highest          ? Standing::lost
                   : outcome.best.size() > 1 ? Standing::drawn
                                             : Standing::won;
  }
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
  if (!outcome.stuck.empty()) {
    std::string who;
    for (const Role& role : outcome.stuck) who += (who.empty() ? "" : " and ") + called(role);
    return fmt::format("stuck: {} {} no legal move, and the game is not over", who,
                       outcome.stuck.size() == 1 ? "has" : "have");
  }
  if (outcome.best.empty()) return fmt::format("no result ({})", values);
  const Role& first = outcome.best.front();
  switch (outcome.standing(first)) {
    case Standing::won:
      return fmt::format("{} wins ({})", called(first), values);
    case Standing::lost:
      return fmt::format("{} loses ({})", called(first), values);
    case Standing::scored:
      return fmt::format("{} scores {}", called(first),
                         outcome.values[first.index()].front().to_string());
    default:
      break;
  }
  if (outcome.best.size() == players) return fmt::format("draw ({})", values);
  std::string shared;
  for (const Role& role : outcome.best) shared += (shared.empty() ? "" : " and ") + called(role);
  return fmt::format("{} share the win ({})", shared, values);
}

void Tally::count(Standing standing, double goal) {
  switch (standing) {
    case Standing::won:
      ++wins;
      break;
    case Standing::drawn:
      ++draws;
      break;
    case Standing::lost:
      ++losses;
      break;
    case Standing::scored:
      ++scored;
      break;
    case Standing::stuck:
      ++stuck;
      return;
    case Standing::none:
      return;
  }
  goals += goal;
}

void Tally::add(const Tally& other) {
  wins += other.wins;
  draws += other.draws;
  losses += other.losses;
  scored += other.scored;
  stuck += other.stuck;
  goals += other.goals;
}

void Score::count(const Game& game, const Outcome& outcome) {
  lines.resize(game.roles().size());
  for (const Role& role : game.roles()) {
    const auto& values = outcome.values[role.index()];
    const auto goal = values.size() == 1 ? values.front().number() : std::nullopt;
    lines[role.index()].count(outcome.standing(role), static_cast<double>(goal.value_or(0)));
  }
}

Match::Match(Game game, std::optional<Position> start) : game_(std::move(game)) {
  positions_.push_back(start ? *start : game_.initial());
}

std::vector<Role> Match::stuck() const {
  return stuck_in(game_, position());
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
