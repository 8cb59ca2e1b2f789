// A position as clauses, of which only those are there that proofs have needed so far.
//
// A gate is a free variable at first. A question is asked with few gates made clauses; what the
// solver finds is worked out gate by gate, and where it got gates wrong these become clauses, too.
// Fluents that no clause speaks of are as in a position that is known to be right. So a question
// about one move of a large game stays as small as its proof. Source: Clarke et al.,
// "Counterexample-guided abstraction refinement" (2003). One thread; the network must outlive it.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "circuit/programs/game_network.hpp"
#include "prove/solver.hpp"

namespace orchard::prove {

using circuit::Signal;

class LazyPosition {
 public:
  // `network`: that of the game, maybe with more gates, and may get further ones. `usual`: the
  // fluents of some position; nothing that is excluded may hold there.
  LazyPosition(const circuit::GameNetwork& game, const circuit::Network& network,
               std::vector<bool> usual);

  // What holds in no position, on top of what is excluded already.
  void exclude(const std::vector<Signal>& never);
  // What is taken to hold in no position; replaces what was taken before, as `exclude` does.
  void suppose(const std::vector<Signal>& never);

  // Whether all signals can hold together; the position is found then. Unknown after so many
  // conflicts, or where too much would become clauses, or when interrupted.
  Solver::Answer solve(std::span<const Signal> signals, int conflicts);
  const std::vector<bool>& found_position() const { return found_; }
  // The solver's variables, once for each call of it: the same on every machine.
  std::uint64_t work() const { return work_; }

 private:
  void begin_anew();
  void add_excluded(Signal signal);
  void make_clauses(std::uint32_t node);
  void make_clauses(std::vector<std::uint32_t> nodes, int depth);
  void make_all_clauses(Signal signal);
  int literal(Signal signal);
  int variable(std::uint32_t node);
  bool value(std::uint32_t node);
  std::uint32_t size(std::uint32_t node);
  void take_position();
  std::vector<std::uint32_t> holding();
  std::vector<std::uint32_t> wrong_gates(std::span<const Signal> signals);

  struct Excluded {
    Signal signal;
    bool is_clause = false;
  };

  const circuit::GameNetwork& game_;
  const circuit::Network& network_;
  std::vector<bool> usual_;
  std::vector<std::uint32_t> fluent_of_;  // by node; one behind the last for what is none
  std::vector<Excluded> excluded_;
  std::size_t known_ = 0;                             // of them, that hold whatever is supposed
  std::vector<std::vector<std::uint32_t>> touching_;  // those that depend on a fluent

  std::unique_ptr<Solver> solver_;
  std::vector<int> variables_;              // by node; 0: none yet
  std::vector<std::uint32_t> known_nodes_;  // that have one
  std::vector<bool> has_clauses_;           // by node
  std::vector<bool> found_;                 // by fluent
  // What the position found makes of nodes, as far as it was worked out.
  std::vector<std::int8_t> values_;
  std::vector<std::uint32_t> worked_out_;
  std::uint64_t work_ = 0;
  std::vector<std::uint32_t> sizes_;  // by node, as far as they were asked for
};

}  // namespace orchard::prove
