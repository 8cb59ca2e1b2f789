#include "orchard/summary.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "game/core.hpp"
#include "orchard/census.hpp"
#include "orchard/playouts.hpp"

namespace orchard {
namespace {

void add_moves(const Game& game, GameSummary& summary) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (lanes == nullptr) return;
  const ground::GroundProgram& ground = lanes->ground();
  for (std::size_t role = 0; role < ground.moves().size(); ++role) {
    for (const ground::GroundProgram::Move& move : ground.moves()[role]) {
      summary.moves.push_back(
          fmt::format("{} {}", summary.roles[role], ground.terms().text(move.term)));
    }
  }
  std::ranges::sort(summary.moves);
}

void add_games(const Game& game, const PlayoutStatistics& played, GameSummary& summary) {
  summary.games = played.playouts;
  summary.mean_length = played.mean_length();
  if (!played.lengths.empty()) {
    summary.least_length = played.lengths.begin()->first;
    summary.most_length = played.lengths.rbegin()->first;
  }
  summary.branching = played.branching;
  if (played.playouts > 0) {
    summary.stuck = static_cast<double>(played.stuck) / static_cast<double>(played.playouts);
  }
  summary.mean_goals.assign(game.roles().size(), 0);
  std::uint64_t ended = 0;
  for (const auto& [values, count] : played.outcomes) {
    ended += count;
    for (std::size_t role = 0; role < values.size(); ++role) {
      const auto number = values[role].size() == 1 ? values[role].front().number() : std::nullopt;
      if (number)
        summary.mean_goals[role] += static_cast<double>(*number) * static_cast<double>(count);
    }
  }
  for (double& goal : summary.mean_goals)
    goal /= static_cast<double>(std::max<std::uint64_t>(ended, 1));
}

}  // namespace

Result<GameSummary> summarize(const Game& game, const SummaryOptions& options) {
  constexpr std::uint64_t usual_positions = 300'000;
  constexpr std::uint64_t most_plies = 10'000;
  const Interruption interruption(options.budget);
  GameSummary summary;
  summary.rules = GameAccess::core(game)->program().description().tree().forms().size();
  for (const Role& role : game.roles()) summary.roles.push_back(role.name());
  Budget part = options.budget;
  part.positions = options.budget.positions.value_or(usual_positions);
  part.progress = {};
  part.checkpoint.reset();
  try {
    add_moves(game, summary);
    end_if_interrupted();
    PlayoutOptions playing;
    playing.games = options.games;
    playing.seed = options.seed;
    playing.plies = most_plies;
    playing.budget.seconds = options.budget.seconds;
    playing.budget.stop = options.budget.stop;
    const auto played = run_playouts(game, playing);
    if (!played) return played.diagnostics();
    add_games(game, *played, summary);
    end_if_interrupted();
    CensusOptions counting;
    counting.budget = part;
    counting.threads = options.threads;
    if (const auto census = take_census(game, counting)) {
      for (const CensusDepth& depth : census->depths) summary.positions_to_depth += depth.positions;
      if (!census->depths.empty()) summary.depth = census->depths.size() - 1;
      if (census->complete) summary.positions = census->positions;
    }
    end_if_interrupted();
    ReviewOptions reviewing;
    reviewing.budget = part;
    reviewing.threads = options.threads;
    reviewing.claims = options.claims;
    const auto review = review_rules(game, reviewing);
    if (!review) return review.diagnostics();
    summary.questions = review->questions;
    summary.claims = review->claims;
  } catch (const Interrupted&) {  // what was found stands
  }
  return summary;
}

GameSummary in_words_of_first(GameSummary second, const Renaming& renaming) {
  const Renaming back = renaming.swapped();
  for (std::string& role : second.roles) role = back.name_of_second(role);
  for (std::string& move : second.moves) {
    const std::size_t blank = move.find(' ');
    const Term term = Term::parse(move.substr(blank + 1)).value();
    move = fmt::format("{} {}", back.name_of_second(move.substr(0, blank)),
                       back.move_of_second(term).to_string());
  }
  std::ranges::sort(second.moves);
  for (Answer& answer : second.questions) {
    const std::size_t colon = answer.id.find(':');
    if (colon == std::string::npos) continue;
    answer.id = answer.id.substr(0, colon + 1) + back.name_of_second(answer.id.substr(colon + 1));
  }
  return second;
}

}  // namespace orchard
