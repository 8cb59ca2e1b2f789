// The forms of a case file, read and checked in shape. Inner part of `run_cases`.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "game/position_form.hpp"
#include "game/written_line.hpp"
#include "orchard/game.hpp"
#include "syntax/tree.hpp"

namespace orchard::review {

struct Expectation {
  enum class Kind { literal, legal_moves, refused, value, best, wins_within };
  Kind kind = Kind::literal;
  Place place;
  std::string text;
  bool negated = false;                // literal
  Term atom = Term::constant("true");  // literal: (legal east (tie 1 ?x))
  std::optional<Role> role;            // of all kinds but literal
  std::vector<Term> moves;             // legal_moves, best: all; refused: one
  std::int64_t number = 0;             // value, wins_within
  std::size_t after = 0;               // plies played before it is looked at
};

struct CaseForm {
  std::string name;
  Place place;
  std::optional<PositionForm> start;  // the start of the game if not set
  std::vector<WrittenPly> plies;
  std::vector<Expectation> expectations;
};

std::vector<CaseForm> read_case_file(const Game& game, const syntax::Tree& tree,
                                     Diagnostics& diagnostics);

}  // namespace orchard::review
