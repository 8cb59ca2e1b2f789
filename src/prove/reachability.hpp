// Whether play can come to a position that shows a signal, decided without exploring.
//
// Kept are clauses about fluents by level: those of level i hold in every position that at most i
// plies lead to. A position that shows the signal, or from which it can be reached, is excluded
// level by level, by a clause as general as the solver can make it. Two levels that are alike prove
// that the signal never shows; a chain of positions back to the start is a line of play to it.
// Clauses serve every later question. Source: Bradley, "SAT-based model checking without unrolling"
// (2011); Eén, Mishchenko and Brayton, "Efficient implementation of property directed reachability"
// (2011). One thread; game and network must outlive it.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "prove/unrolled_game.hpp"

namespace orchard::prove {

struct ReachabilityLimits {
  int conflicts_a_question = 5'000;
  // Of the solver's steps times gates, and of gates looked at, for each question: a second or two.
  std::uint64_t work = 150'000'000;
  std::size_t most_levels = 100;
};

class Reachability {
 public:
  // A joint move as numbers, one for each role.
  using Joint = std::vector<std::uint32_t>;
  enum class Answer { never, reached, unknown };

  // `start`: the fluents that hold at the start. `network` may get further gates.
  Reachability(const circuit::GameNetwork& game, const circuit::Network& network,
               std::vector<bool> start, const ReachabilityLimits& limits = {});

  // Takes as known that a signal of positions alone holds in no reachable position.
  void know_never(Signal signal);
  // A signal of positions alone.
  Answer ask(Signal signal);
  // After `never`: what shows it, as fluents that hold together in no reachable position (f + 1, or
  // negative where one does not hold); with what is known, an inductive set.
  const std::vector<std::vector<int>>& invariants() const { return invariants_; }
  // After `reached`: a line of play from the start to it, not always a shortest one.
  const std::vector<Joint>& line() const { return line_; }

 private:
  // Fluents and how they stand: f + 1, negative if it does not hold; ascending by fluent.
  using Cube = std::vector<int>;
  struct Obligation {
    Cube cube;
    std::size_t level = 0;
    std::optional<std::size_t> after{};  // the obligation that the joint move leads to
    Joint joint{};
  };

  std::optional<Answer> block(Cube cube, std::size_t level);
  Solver::Answer follows(const Cube& cube, std::size_t level, bool with_contrary, Cube* core);
  void generalize(Cube& cube, std::size_t level);
  void exclude(const Cube& cube, std::size_t level);
  bool propagate();
  bool holds_at_start(const Cube& cube) const;
  void keep_off_start(Cube& cube, const Cube& from) const;
  std::vector<int> of_level(std::size_t level);
  Cube predecessor(const Cube& cube, const Joint& joint);
  Cube reason(const std::vector<Signal>& roots, const std::vector<bool>& position,
              const Joint* joint);
  Solver::Answer solve(const std::vector<int>& assumed);
  int literal(std::size_t ply, int fluent);

  const circuit::GameNetwork& game_;
  const circuit::Network& network_;
  std::vector<bool> start_;
  ReachabilityLimits limits_;
  Solver solver_;
  UnrolledGame unrolled_;
  std::vector<std::uint32_t> fluent_of_node_;  // one behind the last for what is none
  std::vector<int> switches_;                  // a literal by level that makes its clauses count
  std::vector<std::vector<Cube>> excluded_;    // by level; each counts for those before, too
  std::size_t top_ = 0;                        // of the question that is asked
  int contrary_ = 0;                           // switches on a clause for one call
  std::uint64_t spent_ = 0;                    // of the work for this question
  std::vector<Obligation> obligations_;
  std::vector<Joint> line_;
  std::vector<Cube> invariants_;
};

}  // namespace orchard::prove
