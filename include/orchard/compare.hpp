// Whether two descriptions are the same game, and if not, how play shows it.
//
//   auto facts = orchard::Game::load("espalier.gdl").value();
//   auto general = orchard::Game::load("espalier_by_rule.gdl").value();
//   auto compared = orchard::compare_games(facts, general).value();
//   if (compared.verdict == orchard::Comparison::Verdict::different)
//     std::cout << compared.differences.front().term << "\n";
//
// Two descriptions are the same game if along every line of play the same moves are legal for the
// same roles, the same positions are ends, every end gives each role the same goals, and every role
// is told the same. Fluents and relations may differ altogether: that is what rewriting changes.
//
// Both games are played side by side on one circuit, which holds the rules of both and a relation
// for "they differ here". Every position is looked at, or it is proved by induction that no line of
// play leads to a difference: signals of the two that agree in sampled positions are suspected to
// agree in all (van Eijk, "Sequential equivalence checking based on structural similarities",
// 2000). Any thread may call; the games may be shared.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/game.hpp"
#include "orchard/line.hpp"

namespace orchard {

// What things of the second description are called in the first.
//
//   (name west pear)                                   ; a role, a constant, a function or a fluent
//   (move (tie ?row ?column) (bind ?column ?row))      ; the first's move, the second's
//
// `name` changes the names in terms wherever they stand, but for the values that goal rules give;
// what is not named keeps its name. `move` says how moves are written that differ in more than
// names; each variable stands on both sides.
struct Renaming {
  // A name of the first description, and that of the second for the same thing.
  std::vector<std::pair<std::string, std::string>> names;
  // A move of the first description, and that of the second for the same move.
  std::vector<std::pair<Term, Term>> moves;

  // Reads a file of such forms. Fails with `bad-renaming` at the place of what is wrong.
  static Result<Renaming> load(const std::string& path);
  // The same from a text; `name` is what diagnostics call it.
  static Result<Renaming> from_text(std::string text, std::string name = "renaming");

  // A name of the first, such as that of a role, as the second calls it.
  std::string name_of_second(const std::string& name) const;
  // A term of the first with the names that the second has.
  Term term_of_second(const Term& term) const;
  // A move of the first as the second writes it.
  Term move_of_second(const Term& move) const;
  // What the first calls things of the second.
  Renaming swapped() const;
  // As forms that `load` reads.
  std::string text() const;
  // True if every thing has one name in both.
  bool empty() const { return names.empty() && moves.empty(); }
};

// Looks for a renaming of roles, moves and constants under which two games may be the same, from
// how the first few thousand positions of either hang together, whatever they are called. None if
// there is none, or the budget (seconds, stop token) ends first. That the games are the same is for
// `compare_games` to show: what lies beyond those positions was not looked at, and moves that were
// not met have no names where kinds of moves differ in more than names and the order of arguments.
std::optional<Renaming> find_renaming(const Game& first, const Game& second,
                                      const Budget& budget = {});

// One thing that one of the two games has and the other has not, in the same position.
struct Difference {
  // What kind of thing it is.
  enum class Kind {
    roles,    // a role that only one of them has, before any move
    secrets,  // one of them tells roles by percepts only, the other shows them every move
    move,     // a move that is legal in one of them alone
    end,      // an end of one of them alone
    goal,     // a goal that an end gives in one of them alone
    percept   // what a role is told in one of them alone, by the last moves
  };
  // What kind of thing it is.
  Kind kind = Kind::end;
  // The game that has it: the first, or else the second.
  bool in_first = true;
  // The role whose move, goal or percept it is, in the words of the first; empty for an end.
  std::string role{};
  // The move, goal or percept, in the words of the game that has it; empty for an end.
  std::string term{};
};

// The word for a kind: "move", "end" …
std::string_view name_of(Difference::Kind kind);

// What a comparison found.
struct Comparison {
  // The answer.
  enum class Verdict {
    same,       // along every line of play
    different,  // a line of play shows it
    undecided   // the budget ended first
  };
  // The answer.
  Verdict verdict = Verdict::undecided;
  // Everything that differs where `first_line` ends.
  std::vector<Difference> differences{};
  // The line of play that shows it, as the first plays it; none if it shows before any play.
  std::optional<Line> first_line{};
  // The same line as the second plays it.
  std::optional<Line> second_line{};
  // Whether no shorter line shows a difference.
  bool shortest = true;
  // What the second calls things: what was given, or found.
  Renaming renaming{};
  // Same: the rules themselves are the same, but for comments and layout.
  bool same_rules = false;
  // Same: it is proved, by the rules alone or by induction over the plies.
  bool proved = false;
  // The number of pairs of positions looked at.
  std::uint64_t positions = 0;
  // The number of random games of the first played in the second as well, where there is no circuit
  // for both.
  std::uint64_t random_games = 0;
  // Why looking at positions ended.
  Ending ending = Ending::complete;
  // Undecided: why there is no circuit for both, if so.
  Diagnostics no_circuit{};
  // Seconds that it took, by the clock.
  double seconds = 0;
};

// The word for a verdict: "same", "different", "undecided".
std::string_view name_of(Comparison::Verdict verdict);

// What to compare by, and what it may cost.
struct CompareOptions {
  // `positions`: 3 million pairs if not set; `memory_bytes`: half of the machine's.
  Budget budget{};
  // For exploring; what is found does not depend on it.
  unsigned threads = 1;
  // Of the random games.
  std::uint64_t seed = 1;
  // What the second calls things.
  Renaming renaming{};
  // Look for a renaming with `find_renaming`, where none is given and the games differ without one;
  // with more positions, where they differ with the one that was found.
  bool find_names = false;
};

// Compares two games. Fails with `bad-renaming` if the renaming fits neither description or makes
// two names one. O(positions × moves) where every position is looked at.
Result<Comparison> compare_games(const Game& first, const Game& second,
                                 const CompareOptions& options = {});

}  // namespace orchard
