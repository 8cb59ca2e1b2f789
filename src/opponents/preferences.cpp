#include "opponents/preferences.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "circuit/lanes/pieces.hpp"
#include "syntax/tree.hpp"

namespace orchard::opponents {

namespace {

// The first clause of the further rules that concludes a relation.
const rules::Clause* clause_of(const rules::Description& description, rules::RelationId relation) {
  for (const rules::Clause& clause : description.clauses()) {
    if (clause.head.relation == relation) return &clause;
  }
  return nullptr;
}

// What looks like a slip in the rules; that nothing asks for `prefer` and `worth` is in their
// nature.
Diagnostics slips_in(const Game& extended) {
  const rules::Description& description = GameAccess::core(extended)->program().description();
  std::vector<Place> asked;
  for (const auto& [name, arity] : {std::pair("prefer", 3U), std::pair("worth", 2U)}) {
    if (const auto relation = description.find(name, arity)) {
      asked.push_back(description.tree().place(description.relation(*relation).first_use));
    }
  }
  Diagnostics result;
  for (const Diagnostic& finding : extended.findings()) {
    const bool by_nature = std::ranges::any_of(asked, [&](const Place& place) {
      return place.file == finding.place.file && place.line == finding.place.line &&
             place.column == finding.place.column;
    });
    if (finding.code != "unused-relation" || !by_nature) result.add(finding);
  }
  return result;
}

}  // namespace

Result<std::shared_ptr<const Preferences>> Preferences::make(const Game& game,
                                                             const syntax::Source& source) {
  auto extended = game_with(game, {source});
  if (!extended) return extended.diagnostics();
  const GameCore& core = *GameAccess::core(*extended);
  if (core.lanes() == nullptr) return core.lanes_fault();
  std::shared_ptr<Preferences> result(new Preferences(game, *extended));
  if (Diagnostics faults = result->read(); !faults.empty()) return faults;
  result->findings_ = slips_in(*extended);
  return std::shared_ptr<const Preferences>(std::move(result));
}

Position Preferences::in_extended(const Position& position) const {
  return extended_.position(position.fluents()).value();
}

std::optional<std::uint32_t> Preferences::number_of(std::size_t role, const Move& move) const {
  const auto known = numbers_[role].find(move.term());
  return known == numbers_[role].end() ? std::nullopt : std::optional(known->second);
}

// Calls visit(instance, role, value, fault) for what the rules of `name` can derive; `fault` adds
// one at their place. False if there are none.
template <class Visit>
bool Preferences::each(std::string_view name, std::uint32_t arity, Diagnostics& faults,
                       Visit visit) const {
  const ground::GroundProgram& ground = lanes().ground();
  const rules::Description& description = ground.description();
  const auto relation = description.find(name, arity);
  const rules::Clause* const clause = relation ? clause_of(description, *relation) : nullptr;
  if (clause == nullptr) return false;
  const auto fault = [&](std::string message, std::string remedy) {
    faults.add(syntax::error_at(description.tree(), clause->head.node, "bad-preference",
                                std::move(message), std::move(remedy)));
  };
  for (const auto& instance : ground.instances(*relation)) {
    if (!faults.empty()) break;
    if (instance.atom != ground::no_atom && ground.phase(instance.atom) == rules::Phase::step) {
      fault(fmt::format("`{}` depends on the moves that are made", name),
            "say it of the position before the move");
      break;
    }
    const Term who = ground.terms().term(instance.arguments.front());
    const Term value = ground.terms().term(instance.arguments.back());
    const auto role = extended_.role(who.to_string());
    if (!role) {
      fault(fmt::format("{} is not a role", who.to_string()), "add (role ?who) to the conditions");
    } else if (!value.number()) {
      fault(fmt::format("{} is not a whole number", value.to_string()),
            fmt::format("write ({} …) with a number at its end", name));
    } else {
      visit(instance, *role, *value.number(), fault);
    }
  }
  return true;
}

void Preferences::number_moves() {
  const ground::GroundProgram& ground = lanes().ground();
  for (const auto& moves : ground.moves()) {
    auto& numbers = numbers_.emplace_back();
    for (std::uint32_t m = 0; m < moves.size(); ++m) {
      numbers.emplace(ground.terms().term(moves[m].term), m);
    }
  }
}

Diagnostics Preferences::read() {
  number_moves();
  Diagnostics faults;
  const auto signal_of = [&](ground::AtomId atom) {
    return atom == ground::no_atom ? circuit::always
                                   : lanes().network().atoms[ground::index_of(atom)];
  };
  prefers_ = each("prefer", 3, faults,
                  [&](const auto& instance, const Role& role, std::int64_t value, auto&&) {
                    const auto move = lanes().move_number(role.index(), instance.arguments[1]);
                    if (!move) return;  // never legal
                    moves_.push_back({role.index(), *move, value});
                    move_signals_.push_back(signal_of(instance.atom));
                  });
  judges_ = each("worth", 2, faults,
                 [&](const auto& instance, const Role& role, std::int64_t value, auto&& fault) {
                   if (value < 0 || value > 100) {
                     fault(fmt::format("a position cannot be worth {}", value),
                           "write a number from 0 to 100");
                     return;
                   }
                   worths_.push_back({role.index(), static_cast<float>(value) / 100.0F});
                   worth_signals_.push_back(signal_of(instance.atom));
                 });
  if (!prefers_ && !judges_ && faults.empty()) {
    faults.add(plain_error("bad-preference",
                           "these rules neither prefer a move nor judge a position",
                           "write rules for (prefer ROLE MOVE VALUE) or (worth ROLE VALUE)"));
  }
  return faults;
}

PreferenceReader::PreferenceReader(std::shared_ptr<const Preferences> preferences)
    : preferences_(std::move(preferences)),
      watch_(preferences_->lanes(), preferences_->lanes().network().network,
             preferences_->move_signals_) {}

std::vector<double> PreferenceReader::values(std::span<const std::uint64_t> row, std::size_t role,
                                             std::span<const std::uint32_t> legal) {
  watch_.look(row, 1);
  std::vector<double> result(legal.size(), 0);
  std::vector<bool> known(legal.size(), false);
  for (std::size_t i = 0; i < preferences_->moves_.size(); ++i) {
    const Preferences::Preference& move = preferences_->moves_[i];
    if (move.role != role || !watch_.holds(i, 0)) continue;
    const auto at = std::ranges::find(legal, move.move);
    if (at == legal.end()) continue;
    const auto number = static_cast<std::size_t>(at - legal.begin());
    const auto value = static_cast<double>(move.value);
    result[number] = known[number] ? std::max(result[number], value) : value;
    known[number] = true;
  }
  return result;
}

WorthReader::WorthReader(std::shared_ptr<const Preferences> preferences)
    : preferences_(std::move(preferences)),
      watch_(preferences_->lanes(), preferences_->lanes().network().network,
             preferences_->worth_signals_) {}

void WorthReader::read(std::span<const std::uint64_t> rows, std::size_t count, float* shares) {
  constexpr float unknown = -1;
  const std::size_t words = preferences_->lanes().words();
  const std::size_t roles = preferences_->game().roles().size();
  circuit::each_piece(count, [&](std::size_t first, std::size_t here) {
    watch_.look(rows.subspan(first * words, here * words), here);
    float* const part = shares + first * roles;
    std::fill_n(part, here * roles, unknown);
    for (std::size_t s = 0; s < preferences_->worths_.size(); ++s) {
      const Preferences::Worth& worth = preferences_->worths_[s];
      for (std::size_t at = 0; at < here; ++at) {
        float& share = part[at * roles + worth.role];
        if (watch_.holds(s, at)) share = std::max(share, worth.share);
      }
    }
    std::replace(part, part + here * roles, unknown, GoalShares::undecided);
  });
}

}  // namespace orchard::opponents
