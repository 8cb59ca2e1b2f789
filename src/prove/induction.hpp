// What no reachable position shows, proved without exploring: by induction over the plies.
//
// Given are signals of which each is suspected to hold in no reachable position. The largest set of
// them is looked for such that, where none of the set holds, none does after any legal joint move
// either (an inductive set). None holds at the start, so none of the set ever holds; nor does
// whatever the set excludes. Signals that say "two contents of a square" or "no content" are what
// makes other proofs work; `exclusive_groups` suggests them.
//
// Source: Flanagan and Leino, "Houdini, an annotation assistant for ESC/Java" (2001), with the
// counterexample of each failed proof tried on all signals. One thread; game and network must
// outlive it.
#pragma once

#include <optional>
#include <set>
#include <vector>

#include "prove/unrolled_game.hpp"

namespace orchard::prove {

// What it may cost; nothing more is proved after an interruption.
struct InductionLimits {
  int conflicts_a_question = 3'000;  // then a question counts as not proved
  // Of the solver's steps times gates, for each set and again for what is asked afterwards: some
  // ten seconds.
  std::uint64_t work = 2'000'000'000;
};

class Induction {
 public:
  // `start`: the fluents that hold at the start.
  Induction(const circuit::GameNetwork& game, const circuit::Network& network,
            std::vector<bool> start, const InductionLimits& limits = {});

  // Looks for the inductive set of what is given and of what could not be proved before, on top of
  // what was. `suspects`: signals of positions alone. Those that are likely and help many proofs
  // best come first.
  // `work`: so many times what the limits say.
  void suspect(const std::vector<Signal>& suspects, std::uint64_t work = 1);

  // Takes as proved what was proved otherwise: it holds in no reachable position.
  void know(const std::vector<Signal>& never);

  // Positions to which a ply leads from where none of the suspects holds, and in which some of them
  // do: what was suspected by a sample is suspected better by a sample with these. No line of play
  // need lead there. None if the suspects are an inductive set, as far as they could be asked.
  std::vector<std::vector<bool>> refutations(const std::vector<Signal>& suspects);

  // Whether a signal of positions alone is proved to hold in no reachable position.
  bool never(Signal signal);

  // What is proved to hold in no reachable position.
  const std::set<Signal>& proved() const { return proved_; }
  // What every reachable position and the next one obey, as far as it is proved; further plies may
  // be added to the game by whoever goes on from here.
  Solver& solver() { return solver_; }
  UnrolledGame& unrolled() { return unrolled_; }

 private:
  std::uint64_t steps() const { return limits_.work / network_.size(); }
  void run();
  bool round();
  std::optional<Solver::Answer> ask_together(std::span<const std::size_t> some);
  void begin(const std::vector<Signal>& suspects, std::uint64_t work = 1);
  void suppose();
  void take_as_shown(std::size_t suspect);
  void refute(const std::vector<bool>& position);
  void refute_by(std::vector<bool> position);
  Solver::Answer ask(std::initializer_list<int> assumptions, int conflicts = 1 << 30);

  const circuit::GameNetwork& game_;
  const circuit::Network& network_;
  std::vector<bool> start_;
  std::vector<Signal> suspects_;
  InductionLimits limits_;
  Solver solver_;
  UnrolledGame unrolled_;
  std::vector<bool> alive_;  // by suspect
  int hypothesis_ = 0;
  std::set<Signal> proved_;
  std::vector<std::vector<bool>> refuting_;
};

}  // namespace orchard::prove
