// Why something holds in a position, or why not: the chain of rules, with their places in the file.
//
//   orchard::Circumstances here{position};
//   auto proof = orchard::why(game, here, orchard::Question::parse(game, "terminal").value());
//   std::cout << proof->text();
//
// What holds is proved: each step is an instance of a clause whose conditions hold, down to the
// fluents of the position, the moves made and what the rules state. Among all proofs a smallest one
// is given (Knuth's generalisation of Dijkstra's algorithm, 1977, on the instances that lead to the
// question). What does not hold has a list of attempts: each clause that could have given it, with
// the instance that comes nearest (fewest conditions missing), and those conditions taken apart in
// turn. A fluent is traced back to the joint move since which it has held, or is gone.
//
// The reference evaluator is asked, never the circuit. Everything here is a value; a game may be
// asked from several threads at once.
// Cost: what the rules make it cost; past `ExplainOptions::most_instances` looked at, `too-large`.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

// A literal of the rules' own language, variables allowed: `(legal east (tie 1 ?column))`.
struct Question {
  // The atom that is asked about.
  Term atom;
  // Whether it is asked not to hold.
  bool negated = false;

  // Reads a question, with or without outer parentheses. Fails with `bad-question` if the rules
  // have no such relation or it has another number of arguments; a fluent needs `true`.
  static Result<Question> parse(const Game& game, std::string_view text);
};

// The circumstances in which a question is asked.
struct Circumstances {
  // The position in which the question is asked.
  Position position;
  std::optional<JointMove> joint{};  // being made; needed for `next`, `sees` and `does`
  std::vector<Position> earlier{};   // the line of play up to here, without `position` itself
  std::vector<JointMove> joints{};   // made in those
};

// Limits for the search for an explanation.
struct ExplainOptions {
  // What never changes during play is taken apart too, and every attempt, not the nearest ones
  // only.
  bool in_full = false;
  std::size_t depth = 4;  // how deep what is missing is taken apart
  // The most instances of rules that are examined.
  std::size_t most_instances = 200'000;
};

// One step of an explanation, with the steps that it rests on.
struct Reason {
  // What a step of an explanation is.
  enum class Kind {
    rule,        // an instance of a clause: all `conditions` hold
    stated,      // by the rules, without conditions
    always,      // never changes during play, so it is not taken apart
    fluent,      // in the position, or not
    move,        // made by the role, or not
    comparison,  // of two terms
    absent,      // a negated condition: the atom does not hold
    repeated,    // taken apart at an earlier step
    attempts,    // does not hold: `conditions` are attempts, the nearest first
    attempt,     // a clause that could have given it, its nearest instance
    no_rule,     // no clause could ever have given it
    since,       // a fluent that holds (or is gone) since `ply`, the proof stands below
    open,        // not taken apart any further
  };
  // The kind of step.
  Kind kind = Kind::rule;
  Term atom = Term::constant("true");  // may hold variables where something is missing
  bool negated = false;                // the literal is (not atom)
  bool holds = true;                   // the literal, in the position
  Place place;                         // of the clause; of the condition where there is no clause
  std::optional<std::size_t> clause;   // its number, for rule, stated and attempt
  std::vector<std::pair<std::string, Term>>
      bindings;                         // its variables; those without value left out
  std::vector<std::size_t> conditions;  // numbers of reasons
  std::size_t left_out = 0;             // attempts: that are further away
  std::uint64_t ply = 0;                // since: after so many plies
  std::string joint;                    // since: the joint move, empty at the start

  std::string literal() const;  // "(not (true (turn west)))"
};

// A proof, or what is missing; a value.
struct Explanation {
  // True if the atom holds.
  bool holds = false;
  std::vector<Reason> reasons;  // the first is the question

  // A tree, indented, with places; ends in a line break. ASCII branches if not `unicode`.
  std::string text(bool unicode = true) const;
  // One line: what is missing first in the nearest attempt, or the clause that fired.
  std::string in_one_line() const;
  // A graph for drawing programs, in the language DOT.
  std::string dot() const;
  // The fluents of the position that a proof rests on, in the order of Term.
  std::vector<Term> fluents() const;
};

// Explains what holds, or not, in a position. Fails with `too-large` past the bound, and with
// `needs-a-move` if the question depends on moves that are not given.
Result<Explanation> why(const Game& game, const Circumstances& circumstances,
                        const Question& question, const ExplainOptions& options = {});

// The fluents that decide an end: those that the proofs of `terminal` and of the best roles' goals
// rest on. Empty if the position is no end, or if nothing positive decides it.
std::vector<Term> deciding_fluents(const Game& game, const Position& position);

}  // namespace orchard
