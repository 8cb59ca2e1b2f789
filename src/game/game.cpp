#include "orchard/game.hpp"

#include <fmt/core.h>
#include <xxhash.h>

#include <algorithm>
#include <filesystem>
#include <stdexcept>

#include "base/utf8.hpp"
#include "game/core.hpp"
#include "orchard/budget.hpp"
#include "rules/findings.hpp"
#include "syntax/source.hpp"

namespace orchard {
namespace {

constexpr std::size_t most_listed = 20;  // legal moves named in a message

syntax::Limits syntax_limits(const LoadOptions& options) {
  return {options.file_bytes, options.nesting, options.symbols, options.forms};
}

Result<Game> build(syntax::Source source, const LoadOptions& options) {
  GameLimits limits;
  limits.reference.rows = options.instances;
  limits.reference.join_steps = options.join_steps;
  constexpr std::uint32_t usual_of_circuit = 64;
  constexpr std::uint32_t usual_of_position = 1024;
  limits.circuit_term_depth = options.term_depth.value_or(usual_of_circuit);
  limits.reference.term_depth = options.term_depth.value_or(usual_of_position);
  constexpr std::uint64_t where_unknown = 1ull << 30;
  limits.circuit_bytes = options.circuit_bytes.value_or(half_of_memory().value_or(where_unknown));
  limits.circuit_seconds = options.circuit_seconds;
  limits.stop = options.stop;
  return under_stop_token(options.stop, "reading the rules", [&]() -> Result<Game> {
    Diagnostics diagnostics;
    auto description = rules::Description::build(std::move(source), syntax_limits(options),
                                                 diagnostics, options.sizes);
    if (!description) return diagnostics;
    return game_of(std::move(description), limits, std::move(diagnostics));
  });
}

std::string list_of(const std::vector<Move>& moves) {
  std::string text;
  for (std::size_t i = 0; i < std::min(moves.size(), most_listed); ++i) {
    text += (i == 0 ? "" : " ") + moves[i].to_string();
  }
  if (moves.size() > most_listed) text += fmt::format(" … ({} in all)", moves.size());
  return text;
}

std::string legal_remedy(const Role& role, const std::vector<Move>& legal) {
  if (legal.empty()) return fmt::format("{} has no legal move here", role.name());
  return fmt::format("legal for {}: {}", role.name(), list_of(legal));
}

}  // namespace

Result<Game> game_of(std::shared_ptr<const rules::Description> description,
                     const GameLimits& limits, Diagnostics findings,
                     std::vector<rules::RelationId> also) {
  auto program = logic::Program::make(std::move(description), limits.reference);
  if (!program) return program.diagnostics();
  auto core = std::make_shared<GameCore>(*program, limits, std::move(findings), std::move(also));
  auto initial = core->work_out(core->program().initial());
  if (!initial) return initial.diagnostics();
  return GameAccess::game(core, GameAccess::position(*initial));
}

Result<Game> Game::load(const std::string& path, const LoadOptions& options) {
  auto source = syntax::Source::from_file(path, syntax_limits(options));
  if (!source) return source.diagnostics();
  return build(*source, options);
}

Result<Game> Game::from_text(std::string rules, std::string name, const LoadOptions& options) {
  return build(syntax::Source(std::move(name), std::move(rules)), options);
}

std::string Game::name() const {
  const std::string& path = core_->program().description().tree().source().name();
  return safe_for_terminal(std::filesystem::path(path).filename().string());
}

std::string GameCore::digest() const {
  const std::string text = program_->description().tree().canonical_text();
  const XXH128_hash_t hash = XXH3_128bits(text.data(), text.size());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

std::string Game::digest() const {
  return core_->digest();
}

const std::vector<Role>& Game::roles() const {
  return core_->roles();
}

std::optional<Role> Game::role(std::string_view name) const {
  const auto found = std::ranges::find(roles(), name, &Role::name);
  return found == roles().end() ? std::nullopt : std::optional(*found);
}

Diagnostics Game::hints() const {
  Diagnostics hints;
  rules::find_hints(core_->program().description(), hints);
  return hints;
}

const Diagnostics& Game::findings() const {
  return core_->findings();
}

bool Game::has_hidden_information() const {
  return core_->program().description().uses(rules::Keyword::sees);
}

Result<Position> Game::position(const std::vector<Term>& fluents) const {
  std::vector<TermId> ids;
  for (const Term& fluent : fluents) {
    if (auto fault = core_->fault_in_fluent(fluent)) return std::move(*fault);
    ids.push_back(core_->terms().add(fluent));
  }
  std::ranges::sort(ids);
  ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
  auto state = core_->work_out(std::move(ids));
  if (!state) return state.diagnostics();
  return GameAccess::position(*state);
}

namespace {

// What stands behind a position, which must be of the game.
const PositionState& state_of(const Game& game, const Position& position) {
  const PositionState& state = GameAccess::state(position);
  if (state.core() != GameAccess::core(game)) {
    throw std::logic_error(
        "a position of another game: positions belong to the game that made them");
  }
  return state;
}

// The number of a role, which must be of the game.
std::size_t number_of(const Game& game, const Role& role) {
  if (role.index() >= game.roles().size() || game.roles()[role.index()] != role) {
    throw std::logic_error("a role of another game: " + role.name());
  }
  return role.index();
}

}  // namespace

bool Game::terminal(const Position& position) const {
  return state_of(*this, position).terminal();
}

std::vector<Move> Game::legal(const Position& position, const Role& role) const {
  std::vector<Move> result;
  for (const TermId id : state_of(*this, position).legal(number_of(*this, role))) {
    result.push_back(GameAccess::move(*this, id));
  }
  return result;
}

std::vector<Term> Game::goals(const Position& position, const Role& role) const {
  std::vector<Term> result;
  for (const TermId id : state_of(*this, position).goals(number_of(*this, role))) {
    result.push_back(core_->terms().term(id));
  }
  return result;
}

std::optional<std::int64_t> Game::goal(const Position& position, const Role& role) const {
  return only_number(goals(position, role));
}

std::optional<std::int64_t> only_number(const std::vector<Term>& values) {
  return values.size() == 1 ? values.front().number() : std::nullopt;
}

namespace {

// The ids of a joint move that is legal in the position, or why it is not.
Result<std::vector<TermId>> checked(const Game& game, const Position& position,
                                    const JointMove& joint) {
  if (game.terminal(position)) {
    return plain_error("game-over", "the game is over; no more moves are taken",
                       "start again, or take moves back");
  }
  const PositionState& state = state_of(game, position);
  Diagnostics faults;
  std::vector<TermId> ids;
  for (const Role& role : game.roles()) {
    const std::vector<TermId> legal = state.legal(role.index());
    if (role.index() >= joint.size()) {
      faults.add(plain_error("missing-move", fmt::format("{} makes no move", role.name()),
                             legal_remedy(role, game.legal(position, role))));
      continue;
    }
    const Move& move = joint[role.index()];
    TermId id = GameAccess::id(move);
    if (GameAccess::owner(move) != GameAccess::core(game).get()) {
      id = GameAccess::core(game)->terms().find(move.term());
    }
    if (std::ranges::find(legal, id) == legal.end()) {
      faults.add(plain_error("illegal-move",
                             fmt::format("{} cannot play {} here", role.name(), move.to_string()),
                             legal_remedy(role, game.legal(position, role))));
    }
    ids.push_back(id);
  }
  if (joint.size() > game.roles().size()) {
    faults.add(plain_error(
        "illegal-move", fmt::format("{} moves for {} roles", joint.size(), game.roles().size())));
  }
  if (!faults.empty()) return faults;
  return ids;
}

}  // namespace

Result<Position> Game::next(const Position& position, const JointMove& joint) const {
  const auto moves = checked(*this, position, joint);
  if (!moves) return moves.diagnostics();
  std::vector<TermId> fluents;
  try {
    GameCore::Lease evaluator(*core_);
    evaluator->set_position(GameAccess::state(position).fluents());
    evaluator->set_joint_move(*moves);
    fluents = evaluator->next();
  } catch (const logic::LimitExceeded& limit) {
    return core_->too_large(limit);
  }
  auto state = core_->work_out(std::move(fluents));
  if (!state) return state.diagnostics();
  return GameAccess::position(*state);
}

Result<std::vector<Term>> Game::percepts(const Position& position, const JointMove& joint,
                                         const Role& role) const {
  const auto moves = checked(*this, position, joint);
  if (!moves) return moves.diagnostics();
  std::vector<Term> result;
  try {
    GameCore::Lease evaluator(*core_);
    evaluator->set_position(GameAccess::state(position).fluents());
    evaluator->set_joint_move(*moves);
    const auto percepts = evaluator->percepts();
    for (const TermId id : percepts[number_of(*this, role)]) {
      result.push_back(core_->terms().term(id));
    }
  } catch (const logic::LimitExceeded& limit) {
    return core_->too_large(limit);
  }
  return result;
}

Move Game::move(const Term& term) const {
  return GameAccess::move(*this, core_->terms().add(term));
}

Result<JointMove> Game::joint_move(const Position& position, const Role& role,
                                   const Move& move) const {
  JointMove joint;
  for (const Role& other : roles()) {
    if (other == role) {
      joint.add(move);
      continue;
    }
    const std::vector<Move> moves = legal(position, other);
    if (moves.size() != 1) {
      return plain_error("missing-move",
                         fmt::format("{} {} and must be given a move too", other.name(),
                                     moves.empty() ? "has no legal move" : "has a choice"),
                         legal_remedy(other, moves));
    }
    joint.add(moves.front());
  }
  return joint;
}

bool Game::is_waiting(const Role& role, const Move& move) const {
  return core_->is_waiting(role.index(), GameAccess::id(move));
}

std::vector<Role> Game::to_move(const Position& position) const {
  if (terminal(position)) return {};
  std::vector<Role> result;
  const PositionState& state = GameAccess::state(position);
  for (const Role& role : roles()) {
    const std::vector<TermId> legal = state.legal(role.index());
    const bool has_other = std::ranges::any_of(
        legal, [&](TermId move) { return !core_->is_waiting(role.index(), move); });
    if (has_other) result.push_back(role);
  }
  return result.empty() ? roles() : result;
}

}  // namespace orchard
