#include "game/lane_game.hpp"

#include "game/core.hpp"

namespace orchard {

Result<std::shared_ptr<const ground::GroundProgram>> LaneGame::instantiate(const GameCore& core) {
  ground::Limits limits;
  limits.clauses = 500'000;
  limits.join_steps = 50'000'000;  // a few seconds
  limits.term_depth = core.program().limits().term_depth;
  return ground::GroundProgram::make(core.program().shared_description(), limits);
}

Result<std::shared_ptr<const LaneGame>> LaneGame::make(const GameCore& core) {
  const auto ground = instantiate(core);
  if (!ground) return ground.diagnostics();
  std::shared_ptr<LaneGame> game(new LaneGame);
  game->ground_ = *ground;
  game->network_ = circuit::build_network(*game->ground_);
  game->groups_ = circuit::sampled_groups(*game->ground_, game->network_);
  for (std::size_t role = 0; role < game->ground_->moves().size(); ++role) {
    std::vector<bool>& waits = game->waiting_.emplace_back();
    for (const auto& move : game->ground_->moves()[role]) {
      waits.push_back(core.is_waiting(role, move.term));
    }
  }
  for (std::uint32_t f = 0; f < game->ground_->fluents().size(); ++f) {
    game->numbers_.emplace(game->ground_->fluents()[f].term, f);
  }
  return std::shared_ptr<const LaneGame>(std::move(game));
}

std::optional<std::vector<bool>> LaneGame::bits(const std::vector<rules::TermId>& fluents) const {
  std::vector<bool> result(numbers_.size(), false);
  for (const rules::TermId fluent : fluents) {
    const auto known = numbers_.find(fluent);
    if (known == numbers_.end()) return std::nullopt;
    result[known->second] = true;
  }
  return result;
}

circuit::PlayProgram LaneGame::play_program(const std::vector<bool>& initial, bool shared) const {
  return circuit::make_play_program(network_, shared ? groups_ : circuit::separate_groups(network_),
                                    {initial, waiting_});
}

LaneGame::Ready LaneGame::ready(const std::vector<bool>& initial, bool shared,
                                std::optional<circuit::Executor::Kind> kind) const {
  Ready result{play_program(initial, shared), nullptr};
  result.executor = circuit::make_executor(result.program.program, kind);
  return result;
}

const LaneGame::Ready& LaneGame::from_start() const {
  std::call_once(start_once_, [this] { start_ = ready(ground_->initial(), true, std::nullopt); });
  return start_;
}

}  // namespace orchard
