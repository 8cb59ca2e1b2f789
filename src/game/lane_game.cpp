#include "game/lane_game.hpp"

#include <fmt/core.h>
#include <xxhash.h>

#include "circuit/lanes/transpose.hpp"
#include "game/core.hpp"

namespace orchard {

Result<std::shared_ptr<const ground::GroundProgram>> LaneGame::instantiate(
    const GameCore& core, bool guided, const ground::Splitting& splitting) {
  ground::Limits limits;
  limits.bytes = core.limits().circuit_bytes;
  limits.term_depth = core.limits().circuit_term_depth;
  limits.guided = guided;
  ground::ForeseenTerms foreseen;
  if (const ReachedTerms* const reached = core.limits().reached.get()) {
    for (const Term& fluent : reached->fluents) foreseen.fluents.insert(core.terms().add(fluent));
    for (const auto& [role, move] : reached->moves) {
      foreseen.moves.insert({core.terms().add(role), core.terms().add(move)});
    }
    limits.foreseen = &foreseen;
    limits.term_depth = core.program().limits().term_depth;  // no deeper than those are
  }
  limits.splitting = splitting;
  return ground::GroundProgram::make(core.program().shared_description(), limits,
                                     core.also_asked());
}

Result<std::shared_ptr<const LaneGame>> LaneGame::make(const GameCore& core) {
  auto ground = instantiate(core);
  const rules::Description& description = core.program().description();
  Diagnostics why_guided;
  if (!ground &&
      (description.uses(rules::Keyword::base) || description.uses(rules::Keyword::input))) {
    if (auto within = instantiate(core, true)) {
      why_guided = ground.diagnostics();
      ground = std::move(within);
    }
  }
  if (!ground) return ground.diagnostics();
  std::shared_ptr<LaneGame> game(new LaneGame);
  game->why_guided_ = std::move(why_guided);
  game->first_move_ = {1};  // behind whether the position is an end
  for (const auto& moves : (*ground)->moves()) {
    game->first_move_.push_back(game->first_move_.back() + moves.size());
  }
  game->first_goal_ = {game->first_move_.back()};
  for (const auto& goals : (*ground)->goals()) {
    game->first_goal_.push_back(game->first_goal_.back() + goals.size());
  }
  game->ground_ = *ground;
  game->network_ = circuit::build_network(*game->ground_);
  game->core_ = &core;
  for (const auto& moves : game->ground_->moves()) {
    auto& numbers = game->move_numbers_.emplace_back();
    for (std::uint32_t m = 0; m < moves.size(); ++m) numbers.emplace(moves[m].term, m);
  }
  for (std::uint32_t f = 0; f < game->ground_->fluents().size(); ++f) {
    game->numbers_.emplace(game->ground_->fluents()[f].term, f);
  }
  return std::shared_ptr<const LaneGame>(std::move(game));
}

std::string LaneGame::identity(std::span<const std::uint64_t> from) const {
  return fmt::format("{} with {} fluents and {} clauses, from {:016x}", core_->digest(),
                     ground_->fluents().size(), ground_->clauses().size(),
                     XXH3_64bits(from.data(), from.size_bytes()));
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

std::vector<std::uint64_t> LaneGame::row(const std::vector<bool>& bits) const {
  std::vector<std::uint64_t> result(words(), 0);
  for (std::size_t f = 0; f < bits.size(); ++f) {
    if (bits[f]) result[f / 64] |= std::uint64_t{1} << (f % 64);
  }
  return result;
}

std::size_t LaneGame::words() const {
  return std::max<std::size_t>(circuit::words_for(numbers_.size()), 1);
}

std::optional<std::uint32_t> LaneGame::fluent_number(rules::TermId fluent) const {
  const auto known = numbers_.find(fluent);
  return known == numbers_.end() ? std::nullopt : std::optional(known->second);
}

std::optional<std::uint32_t> LaneGame::move_number(std::size_t role, rules::TermId move) const {
  const auto known = move_numbers_[role].find(move);
  return known == move_numbers_[role].end() ? std::nullopt : std::optional(known->second);
}

LaneGame::Answering LaneGame::answering(std::optional<circuit::Executor::Kind> kind) const {
  Answering result{circuit::make_position_programs(network_), nullptr, nullptr};
  result.position = circuit::make_executor(result.programs.position, kind);
  result.step = circuit::make_executor(result.programs.step, kind);
  return result;
}

LaneGame::Slot& LaneGame::slot_of(std::type_index type) const {
  const std::lock_guard lock(slots_mutex_);
  std::unique_ptr<Slot>& slot = slots_[type];
  if (!slot) slot = std::make_unique<Slot>();
  return *slot;
}

const LaneGame::Answering& LaneGame::answering() const {
  std::call_once(answering_once_, [this] { answering_ = answering(std::nullopt); });
  return answering_;
}

const circuit::ChoiceGroups& LaneGame::choice_groups() const {
  std::call_once(groups_once_, [this] { groups_ = circuit::sampled_groups(*ground_, network_); });
  return groups_;
}

circuit::PlayProgram LaneGame::play_program(const std::vector<bool>& initial, bool shared) const {
  std::vector<std::vector<bool>> waiting;
  for (std::size_t role = 0; role < ground_->moves().size(); ++role) {
    std::vector<bool>& waits = waiting.emplace_back();
    for (const auto& move : ground_->moves()[role]) {
      waits.push_back(core_->is_waiting(role, move.term));
    }
  }
  return circuit::make_play_program(network_,
                                    shared ? choice_groups() : circuit::separate_groups(network_),
                                    {initial, std::move(waiting)});
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
