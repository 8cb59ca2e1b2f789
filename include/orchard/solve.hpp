// Values under best play, and the moves that reach them.
//
//   auto solution = orchard::solve(game).value();
//   if (solution.complete()) std::cout << solution.value(game.initial(), east);
//
// Every position that can follow is worked out, and values are handed back from the ends (backward
// induction). Where one role chooses it takes what is best for itself; with more than two roles
// that is the assumption. Where two roles with opposed interests choose at once their moves are
// mixed, by linear programming (the minimax theorem, von Neumann 1928). Where more choose at once,
// or interests are not opposed, a game has no one value: then each role's is what it can make sure
// of, mixing its moves, whatever the others do together. Chance is averaged over, exactly. Where
// positions come again, values are what can be forced in finitely many moves (retrograde analysis).
//
// Where there are too many positions to keep, a game of one or two opposed roles that choose one at
// a time, without chance, is searched to its ends instead (alpha-beta with a table of positions,
// Knuth and Moore 1975): that gives the value of the first position and along a line of best play.
//
// Rules without a circuit are solved by the reference evaluator, some ten thousand joint moves a
// second. Where not every position could be looked at, values are what can be forced whatever
// follows there.
//
// A Solution is immutable and may be shared between threads. Memory: about 50 bytes a position, 8 a
// joint move in it, and its bits.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/line.hpp"

namespace orchard {

// How a game is solved, and what that may cost.
struct SolveOptions {
  // The ways of solving.
  enum class Way {
    automatic,  // every position if the budget allows it, else by searching
    all,        // every position
    search,     // from the first position only
  };
  // The way to use.
  Way way = Way::automatic;
  unsigned threads = 1;  // for finding the positions
  // The start of the game if not set.
  std::optional<Position> from{};
  // `positions` to keep: 5 000 000 if not set, 500 000 where there is no circuit. A search looks at
  // no more than 20 times as many; it keeps a fixed number.
  Budget budget{};
};

// A move of best play, and what it leads to.
struct GoodMove {
  // The move of the role.
  Move move;
  double share = 1;  // how often to make it; equally good moves share evenly
};

class SolutionSource;  // inner

class Solution {
 public:
  // Whether the value of the first position is proved.
  bool complete() const;
  // Why not: a budget, or positions that repeat.
  const std::string& reason() const;
  // Why solving ended.
  Ending ending() const;
  // The number of positions whose value was computed or looked up.
  std::uint64_t positions() const;
  // Whether it was searched from the first position, so that others have no value but those on the
  // line.
  bool searched() const;
  // Whether more than two roles choose somewhere, so that values rest on each taking what is best
  // for itself.
  bool assumes_selfish() const;
  // Whether values are what each role can make sure of, whatever the others do together.
  bool secures() const;
  // True if best play chooses between moves at random in some position.
  bool mixes() const;
  // What the rules do beyond the language that values do not follow: goals that are no numbers from
  // 0 to 100 count as the nearest one; and how far the value reaches, if not every position was
  // looked at. Often empty.
  const std::string& remark() const { return remark_; }

  // A role's value in a position that was worked out, 0 to 100; none elsewhere.
  std::optional<double> value(const Position& position, const Role& role) const;
  // How many plies the game still goes on from it under best play, where whoever is winning hurries
  // and whoever is losing holds out; none elsewhere. Without meaning where chance decides.
  std::optional<std::uint64_t> plies(const Position& position) const;
  // The best moves of a role in it; none elsewhere, or at an end.
  std::vector<GoodMove> best(const Position& position, const Role& role) const;
  // A line of best play from the first position: of equally good moves the one that wins soonest or
  // loses latest (so a puzzle's shortest solution), the likeliest of mixed ones, the first of
  // chance.
  const Line& line() const;

  // A position in which a role chooses between moves, with its value for the role.
  struct Choice {
    Position position;
    Role role;
    double value = 0;
    std::vector<GoodMove> best;
  };
  // Calls visit(choice) for every one that can follow, breadth-first, whose value was worked out.
  // Nothing if it was searched. Of the budget the seconds and the stop token count; the ending says
  // whether they cut it short. Cost: every joint move of every position.
  Ending each_choice(const Game& game, const std::function<void(const Choice&)>& visit,
                     const Budget& budget = {}) const;

  // Writes what every position is worth to a file. Fails with `cannot-write`, and with
  // `nothing-to-keep` if it was searched or is not complete.
  Diagnostics keep(const std::string& file) const;
  // Reads such a file; the game must have the same rules and sizes. Fails with `cannot-read`,
  // `other-state`, `damaged-state`.
  static Result<Solution> kept(const std::string& file, const Game& game);

 private:
  friend Result<Solution> solve(const Game& game, const SolveOptions& options);
  explicit Solution(std::shared_ptr<const SolutionSource> source, std::string remark = {})
      : source_(std::move(source)), remark_(std::move(remark)) {}
  std::shared_ptr<const SolutionSource> source_;
  std::string remark_;
};

// Fails with `unforeseen-fluent`, `not-searchable`, without a circuit `nothing-to-save` for a
// checkpoint, and `too-large` if the rules cost too much in
// one position. A result that is not complete says why.
Result<Solution> solve(const Game& game, const SolveOptions& options = {});

}  // namespace orchard
