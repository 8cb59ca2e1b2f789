// Induction over the plies, one joint move at a time.
//
// Suspected are sums of fluents that stay between two bounds in every reachable position (a square
// has one content; what is in hand and what stands are ten together), and signals that never hold.
// The largest set of them is looked for that no joint move breaks where none is broken before; each
// joint move is a small question of its own (`single_steps`). What is proved can be told to
// `Induction`, which asks about all moves at once. A position found against one of them is tried on
// all. Cost: a question for each joint move and pass, and a pass more than there are times when
// something was refuted. One thread.
#pragma once

#include <cstdint>
#include <set>
#include <span>
#include <vector>

#include "prove/lazy_position.hpp"
#include "prove/linear_form.hpp"
#include "prove/single_steps.hpp"

namespace orchard::prove {

// A sum of fluents (of the ground program) with weights.
struct FluentSum {
  std::vector<std::uint32_t> fluents;
  std::vector<std::int64_t> weights;  // of each; 1 where there are none
  std::int64_t weight(std::size_t at) const { return weights.empty() ? 1 : weights[at]; }
};

struct SumSuspect {
  FluentSum sum;
  std::int64_t least = 0;
  std::int64_t most = 0;
  // What holds in no reachable position if the sum is never more than `most`, and if it is never
  // less than `least`; where there is nothing, the bound does not count.
  std::vector<Signal> over;
  std::vector<Signal> under;
};

class StepInduction {
 public:
  // `start`: the fluents that hold at the start. `network`: that of the game, maybe with more
  // gates, of which the suspects are. Game and network must outlive it; gates are added to a copy.
  StepInduction(const circuit::GameNetwork& game, const circuit::Network& network,
                std::vector<bool> start);

  // Takes as known that these signals of positions alone hold in no reachable position.
  void know_never(const std::vector<Signal>& never);
  // Of these fluents one at most holds, or exactly one, in every reachable position.
  void know_group(const std::vector<std::uint32_t>& fluents, bool exactly_one);
  // Works out the joint moves from what is known; whether they are few enough to be looked at.
  bool find_steps();
  const std::vector<SingleStep>& steps() const { return steps_; }

  // The signals that these prove never to hold, on top of what is known; they are known then.
  // Nothing of it where an interruption comes before the end. A suspect that takes more work than
  // this is given up (as `LazyPosition` counts it: some ten million a second).
  std::vector<Signal> suspect(const std::vector<SumSuspect>& sums, std::vector<Signal> signals,
                              std::uint64_t work);

  // Whether a signal of positions alone is excluded by what is known, as far as some work shows. Of
  // gates added to the network since the beginning nothing is known.
  bool never(Signal signal);

  // How a sum changes by a step.
  LinearForm change_of(const FluentSum& sum, const SingleStep& step) const;
  // The groups that are proved, before a step and after it.
  ExclusiveSignals groups_around(const SingleStep& step) const;
  // Whether a step can be made where a signal holds; the position is found then.
  Solver::Answer can_be(const SingleStep& step, Signal signal);
  const std::vector<bool>& found_position() const { return position_.found_position(); }
  std::vector<bool> after(const std::vector<bool>& position, const SingleStep& step) const;
  circuit::Network& network() { return network_; }

 private:
  struct Group {
    std::vector<std::uint32_t> fluents;
    bool exactly_one = false;
  };
  struct Suspect {
    const SumSuspect* sum = nullptr;  // null for a signal
    bool below = false;               // the bound of the sum that is meant
    Signal signal{};
    std::vector<std::uint32_t> cone{};  // of the signal, ascending
    bool alive = true;
    std::uint64_t work = 0;

    // What holds in no reachable position if it is right.
    std::span<const Signal> never() const {
      if (sum == nullptr) return {&signal, 1};
      return below ? sum->under : sum->over;
    }
  };
  using Suspects = std::vector<Suspect>;

  static std::optional<Group> group_of(const Suspects& suspects, std::size_t number);
  void refute(Suspects& suspects, const std::vector<bool>& position) const;
  void suppose(const Suspects& suspects);
  bool pass(Suspects& suspects, std::uint64_t work);
  bool look_at(const SingleStep& step, Suspects& suspects, std::uint64_t work);
  std::optional<Signal> broken_after(const Suspect& suspect, bool exact, const SingleStep& step);
  Signal after_step(const Suspect& suspect);
  void forget_step();
  std::vector<std::uint32_t> cone(Signal signal) const;
  void add_group(ExclusiveSignals& to, const Group& group) const;

  const circuit::GameNetwork& game_;
  const circuit::Network& given_;
  circuit::Network network_;
  std::vector<bool> start_;
  LazyPosition position_;
  std::vector<Signal> known_never_;
  std::vector<Group> groups_;   // proved
  ExclusiveSignals exclusive_;  // they, and those that are supposed
  std::vector<SingleStep> steps_;
  std::vector<std::vector<std::uint32_t>> touched_by_;  // suspects, by fluent
  std::vector<Signal> value_;  // by node of the network as it was given; while a step is looked at
};

}  // namespace orchard::prove
