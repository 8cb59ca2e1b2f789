#include "game/core.hpp"

#include <absl/cleanup/cleanup.h>
#include <absl/hash/hash.h>
#include <fmt/core.h>

#include <algorithm>

#include "base/similar.hpp"
#include "game/known_terms.hpp"
#include "game/lane_game.hpp"
#include "syntax/tree.hpp"

namespace orchard {

std::size_t hash_of(std::span<const TermId> fluents) {
  return absl::HashOf(absl::Span<const TermId>(fluents.data(), fluents.size()));
}

GameCore::GameCore(std::shared_ptr<const logic::Program> program, const GameLimits& limits,
                   Diagnostics findings, std::vector<rules::RelationId> also)
    : program_(std::move(program)),
      limits_(limits),
      findings_(std::move(findings)),
      also_(std::move(also)) {
  const rules::Description& description = program_->description();
  for (const TermId role : description.roles()) {
    roles_.push_back(GameAccess::role(roles_.size(), terms().text(role)));
  }
  for (const rules::Clause& clause : description.clauses()) {
    const rules::Keyword keyword = description.relation(clause.head.relation).keyword;
    if (keyword != rules::Keyword::init && keyword != rules::Keyword::next &&
        keyword != rules::Keyword::base) {
      continue;
    }
    const rules::PatternSymbol& fluent = clause.head.arguments.front();
    if (fluent.kind == rules::PatternSymbol::Kind::variable) {
      any_fluent_ = true;
    } else {
      fluent_names_.insert({fluent.symbol(), fluent.arity});
    }
  }
}

std::optional<Diagnostic> GameCore::fault_in_fluent(const Term& fluent) const {
  if (!fluent.is_ground()) {
    return plain_error("unknown-fluent", fmt::format("{} holds a variable", fluent.to_string()),
                       "a position lists fluents without variables");
  }
  const auto arity = static_cast<std::uint32_t>(fluent.arity());
  const auto symbol = terms().find_symbol(fluent.name());
  if (any_fluent_ || (symbol && fluent_names_.contains({*symbol, arity}))) return std::nullopt;
  std::vector<std::string> names;
  std::string other_arity;
  for (const auto& [name, count] : fluent_names_) {
    names.push_back(terms().name(name));
    if (names.back() == fluent.name()) {
      other_arity =
          fmt::format("`{}` takes {} argument{}", names.back(), count, count == 1 ? "" : "s");
    }
  }
  std::ranges::sort(names);
  const auto meant = most_similar(fluent.name(), names);
  return plain_error("unknown-fluent",
                     fmt::format("no rule makes a fluent like {}", fluent.to_string()),
                     !other_arity.empty() ? other_arity
                     : meant              ? fmt::format("did you mean `{}`?", *meant)
                                          : "check the name against the rules");
}

const KnownTerms& GameCore::known_terms() const {
  std::call_once(known_terms_once_, [this] {
    known_terms_ = std::make_shared<const KnownTerms>(program_->description());
  });
  return *known_terms_;
}

GameCore::Lease::Lease(const GameCore& core, bool reference_only) : core_(core) {
  {
    const std::lock_guard lock(core.pool_mutex_);
    if (!core.pool_.empty()) {
      evaluator_ = std::move(core.pool_.back());
      core.pool_.pop_back();
    }
  }
  if (!evaluator_) evaluator_ = std::make_unique<PositionEvaluator>(core);
  evaluator_->use_reference_only(reference_only);
}

GameCore::Lease::~Lease() {
  const std::lock_guard lock(core_.pool_mutex_);
  core_.pool_.push_back(std::move(evaluator_));
}

Diagnostic too_slow(std::string_view what, double seconds) {
  Diagnostic fault = plain_error("too-slow", fmt::format("{} took more than {:g} s", what, seconds),
                                 "make the sizes smaller, or raise --circuit-seconds");
  fault.is_limit = true;
  return fault;
}

const LaneGame* GameCore::lanes() const {
  return exact_plies() ? nullptr : lanes_near_start();
}

const LaneGame* GameCore::lanes_or_guided() const {
  return exact_plies() ? nullptr : made_lanes();
}

const LaneGame* GameCore::lanes_near_start() const {
  const LaneGame* const made = made_lanes();
  return made != nullptr && made->guided() ? nullptr : made;
}

std::optional<std::uint64_t> GameCore::exact_plies() const {
  return limits_.reached ? limits_.reached->plies : std::nullopt;
}

const LaneGame* GameCore::made_lanes() const {
  std::call_once(lanes_once_, [this] {
    lanes_being_made_ = true;
    const absl::Cleanup over = [this] { lanes_being_made_ = false; };
    // Where the operation that asks is itself interrupted, the next one tries anew.
    auto made = under_stop_token(
        limits_.stop, "making the circuit", [this] { return LaneGame::make(*this); },
        limits_.circuit_seconds);
    if (made) {
      lanes_ = *made;
    } else {
      lanes_fault_ = made.diagnostics();
    }
    lanes_made_ = true;
  });
  return lanes_.get();
}

const Diagnostics& GameCore::lanes_fault() const {
  if (lanes_ && exact_plies()) return limits_.reached->why_none;
  return lanes_ ? lanes_->why_guided() : lanes_fault_;
}

const LaneGame* GameCore::lanes_unless_being_made() const {
  return !lanes_made_ && lanes_being_made_ ? nullptr : lanes();
}

const LaneGame* GameCore::lanes_if_worth_it() const {
  constexpr int first_positions = 16;
  if (!lanes_made_ && (lanes_being_made_ || positions_before_lanes_++ < first_positions)) {
    return nullptr;
  }
  return lanes_or_guided();
}

Diagnostic GameCore::too_large(const logic::LimitExceeded& limit) const {
  const rules::Description& description = program_->description();
  const rules::Clause& clause = description.clauses()[limit.clause()];
  return syntax::error_at(description.tree(), clause.head.node, "too-large",
                          std::string(limit.what()) + ", reached by this rule",
                          "narrow what its variables range over, or keep the state from growing");
}

Result<std::shared_ptr<const PositionState>> GameCore::work_out(
    const std::vector<TermId>& fluents) const {
  try {
    Lease evaluator(*this);
    evaluator->set_position(fluents);
    return std::make_shared<const PositionState>(shared_from_this(), fluents, *evaluator);
  } catch (const logic::LimitExceeded& limit) {
    return too_large(limit);
  }
}

Result<Game> game_with(const Game& game, const std::vector<syntax::Source>& further) {
  const GameCore& core = *GameAccess::core(game);
  const rules::Description& own = core.program().description();
  Diagnostics found;
  auto description = rules::Description::extend(own, further, {}, found);
  Diagnostics told;
  for (const Diagnostic& diagnostic : found) {
    if (description != nullptr || diagnostic.severity == Severity::error) told.add(diagnostic);
  }
  if (!description) return told;
  std::vector<rules::RelationId> asked;
  for (std::size_t c = own.clauses().size(); c < description->clauses().size(); ++c) {
    asked.push_back(description->clauses()[c].head.relation);
  }
  return game_of(std::move(description), core.limits(), std::move(told), std::move(asked));
}

}  // namespace orchard
