#include "explore/sight/told_position.hpp"

#include <algorithm>

#include "game/core.hpp"

namespace orchard::explore {

using ground::AtomId;
using ground::GroundClause;
using ground::GroundProgram;

ToldPosition::ToldPosition(const LaneGame& game, std::size_t role, const std::vector<bool>& start,
                           std::vector<std::vector<std::uint32_t>> exclusive)
    : game_(&game),
      rules_(&game.once<ThreeValued>([&] { return ThreeValued(game.ground()); })),
      role_(role),
      exclusive_(std::move(exclusive)),
      learnt_(start.size(), false),
      last_known_(start.size(), -1) {
  for (const bool holds : start) fluents_.push_back(holds ? Truth::yes : Truth::no);
}

ToldPosition::Atoms ToldPosition::from_fluents() const {
  Atoms given(game_->ground().atom_count(), Truth::open);
  const auto& fluents = game_->ground().fluents();
  for (std::size_t number = 0; number < fluents.size(); ++number) {
    if (fluents[number].now == ground::no_atom) continue;
    given[ground::index_of(fluents[number].now)] = fluents_[number];
  }
  return given;
}

// A move that is not possible is not made; one that is the only possible one is.
ToldPosition::Choices ToldPosition::others_move(const Atoms& values, Atoms& given) const {
  const auto& moves = game_->ground().moves();
  Choices choices(moves.size(), 0);
  for (std::size_t role = 0; role < moves.size(); ++role) {
    if (role == role_) continue;
    const auto may = [&](const GroundProgram::Move& move) {
      return move.legal != ground::no_atom && values[ground::index_of(move.legal)] != Truth::no;
    };
    choices[role] = static_cast<std::uint32_t>(std::ranges::count_if(moves[role], may));
    for (const GroundProgram::Move& move : moves[role]) {
      if (move.does == ground::no_atom) continue;
      given[ground::index_of(move.does)] = !may(move)           ? Truth::no
                                           : choices[role] == 1 ? Truth::yes
                                                                : Truth::open;
    }
  }
  return choices;
}

// The same once percepts have told of moves: who has made one move has made no other.
ToldPosition::Choices ToldPosition::others_made(const Atoms& before, Choices choices,
                                                Atoms& given) const {
  const auto& moves = game_->ground().moves();
  for (std::size_t role = 0; role < moves.size(); ++role) {
    if (role == role_) continue;
    const auto value = [&](const GroundProgram::Move& move) {
      return move.does == ground::no_atom ? Truth::no : given[ground::index_of(move.does)];
    };
    const bool made = std::ranges::find(moves[role], Truth::yes, value) != moves[role].end();
    for (const GroundProgram::Move& move : moves[role]) {
      if (move.does == ground::no_atom) continue;
      const std::size_t does = ground::index_of(move.does);
      if (made && given[does] == Truth::open) given[does] = Truth::no;
      if (before[does] == Truth::open && given[does] == Truth::no) --choices[role];
    }
  }
  return choices;
}

// Backward from what the role is told. `values`: what was known before.
void ToldPosition::tell(AtomId first, bool holds, const Atoms& values, Atoms& given) const {
  struct Told {
    AtomId atom;
    bool holds;
  };
  std::vector<Told> told = {{first, holds}};
  const GroundProgram& program = game_->ground();
  const auto value = [&](AtomId atom) {
    const std::size_t number = ground::index_of(atom);
    return given[number] != Truth::open ? given[number] : values[number];
  };
  std::vector<AtomId> common;
  std::vector<AtomId> absent;
  while (!told.empty()) {
    const auto [atom, is_there] = told.back();
    told.pop_back();
    if (value(atom) != Truth::open) continue;
    given[ground::index_of(atom)] = is_there ? Truth::yes : Truth::no;
    bool begun = false;
    for (const std::uint32_t number : rules_->clauses(atom)) {
      const GroundClause& clause = program.clauses()[number];
      const auto positive = program.positive(clause);
      const auto negative = program.negative(clause);
      if (!is_there) {
        std::size_t open = 0;
        bool fails = false;  // without anything more
        Told only{};
        const auto look = [&](AtomId on, Truth holds_if) {
          const Truth known = value(on);
          fails = fails || known == !holds_if;
          if (known != Truth::open) return;
          ++open;
          only = {on, holds_if == Truth::no};
        };
        for (const AtomId on : positive) look(on, Truth::yes);
        for (const AtomId on : negative) look(on, Truth::no);
        if (open == 1 && !fails) told.push_back(only);
        continue;
      }
      if (rules_->body(clause, values) == Truth::no) continue;
      if (!begun) {
        common.assign(positive.begin(), positive.end());
        absent.assign(negative.begin(), negative.end());
        begun = true;
      } else {
        const auto without = [](std::vector<AtomId>& atoms, std::span<const AtomId> those) {
          std::erase_if(atoms,
                        [&](AtomId on) { return std::ranges::find(those, on) == those.end(); });
        };
        without(common, positive);
        without(absent, negative);
      }
    }
    if (!begun) continue;
    for (const AtomId on : common) told.push_back({on, true});
    for (const AtomId on : absent) {
      if (value(on) == Truth::open) given[ground::index_of(on)] = Truth::no;
    }
  }
}

// Of a group of which one fluent holds no other does.
void ToldPosition::leave_out_others() {
  for (const auto& group : exclusive_) {
    const auto holds = [&](std::uint32_t fluent) { return fluents_[fluent] == Truth::yes; };
    if (std::ranges::none_of(group, holds)) continue;
    for (const std::uint32_t fluent : group) {
      if (!holds(fluent)) fluents_[fluent] = Truth::no;
    }
  }
}

// Whether play goes on, and what the position allows: of the role's own moves, and of the others
// that wait.
void ToldPosition::hear_legal(const Step& step) {
  Atoms given = from_fluents();
  const Atoms values = rules_->evaluate(given);
  const AtomId terminal = game_->ground().terminal();
  if (terminal != ground::no_atom) tell(terminal, step.over, values, given);
  const auto& moves = game_->ground().moves();
  for (const std::uint32_t number : step.legal) {
    tell(moves[role_][number].legal, true, values, given);
  }
  for (std::size_t role = 0; role < moves.size(); ++role) {
    if (role != role_ && step.to_move[role]) continue;
    for (std::uint32_t number = 0; number < moves[role].size(); ++number) {
      const GroundProgram::Move& move = moves[role][number];
      const bool legal = role == role_ ? std::ranges::binary_search(step.legal, number)
                                       : game_->core().is_waiting(role, move.term);
      if (move.legal != ground::no_atom && !legal) tell(move.legal, false, values, given);
    }
  }
  allowed_.clear();
  for (const auto& of_role : moves) {
    for (const GroundProgram::Move& move : of_role) {
      if (move.legal == ground::no_atom) continue;
      const Truth legal = given[ground::index_of(move.legal)];
      if (legal != Truth::open) allowed_.emplace_back(move.legal, legal);
    }
  }
  const auto& fluents = game_->ground().fluents();
  for (std::size_t number = 0; number < fluents.size(); ++number) {
    if (fluents[number].now == ground::no_atom) continue;
    fluents_[number] = given[ground::index_of(fluents[number].now)];
  }
}

std::vector<std::uint32_t> ToldPosition::legal_moves() const {
  const Atoms values = rules_->evaluate(from_fluents());
  const auto& moves = game_->ground().moves()[role_];
  for (const Truth wanted : {Truth::yes, Truth::open}) {
    std::vector<std::uint32_t> result;
    for (std::uint32_t number = 0; number < moves.size(); ++number) {
      const AtomId legal = moves[number].legal;
      // What has no atom is legal anywhere.
      const Truth value = legal == ground::no_atom ? Truth::yes : values[ground::index_of(legal)];
      if (value == wanted) result.push_back(number);
    }
    if (!result.empty()) return result;
  }
  return {};
}

void ToldPosition::advance(const Step& step) {
  Atoms given = from_fluents();
  for (const auto& [legal, value] : allowed_) given[ground::index_of(legal)] = value;
  const GroundProgram& program = game_->ground();
  const auto& own_moves = program.moves()[role_];
  for (std::uint32_t number = 0; number < own_moves.size(); ++number) {
    const AtomId does = own_moves[number].does;
    if (does == ground::no_atom) continue;
    given[ground::index_of(does)] = number == step.own ? Truth::yes : Truth::no;
  }
  Choices choices = others_move(rules_->evaluate(given), given);
  const Atoms before = rules_->evaluate(given, choices);
  const auto& percepts = program.percepts()[role_];
  for (const std::uint32_t number : step.sees) {
    if (percepts[number].atom != ground::no_atom) tell(percepts[number].atom, true, before, given);
  }
  for (std::uint32_t number = 0; number < percepts.size(); ++number) {
    if (percepts[number].atom == ground::no_atom || std::ranges::binary_search(step.sees, number)) {
      continue;
    }
    tell(percepts[number].atom, false, before, given);
  }
  choices = others_made(before, std::move(choices), given);
  const Atoms after = rules_->evaluate(given, choices);
  const auto& fluents = program.fluents();
  const std::vector<Truth> old = std::move(fluents_);
  fluents_.assign(fluents.size(), Truth::no);
  for (std::size_t number = 0; number < fluents.size(); ++number) {
    if (fluents[number].next == ground::no_atom) continue;
    fluents_[number] = after[ground::index_of(fluents[number].next)];
  }
  leave_out_others();  // of what percepts told
  if (step.heard) {
    hear_legal(step);
    leave_out_others();
  } else {
    allowed_.clear();
  }
  for (std::size_t number = 0; number < fluents.size(); ++number) {
    if (fluents_[number] != Truth::open) {
      last_known_[number] = -1;
      learnt_[number] =
          fluents_[number] == Truth::yes && (learnt_[number] || old[number] != Truth::yes);
    } else if (old[number] == Truth::yes && learnt_[number]) {
      last_known_[number] = ply_;
    }
  }
  ++ply_;
}

}  // namespace orchard::explore
