#include "prove/single_steps.hpp"

#include <algorithm>
#include <functional>
#include <queue>

namespace orchard::prove {
namespace {

// The moves of some roles, and whether they can be made together.
struct Prefix {
  std::vector<std::uint32_t> moves;
  Signal possible;
};

// Which moves can be made together, role by role. Where one role has a choice others mostly have
// none: those that have none are told apart by asking the solver a few questions about all at once.
class Joints {
 public:
  Joints(const circuit::GameNetwork& game, circuit::Network& network, Solver& solver,
         UnrolledGame& position, std::size_t most)
      : game_(game), network_(network), solver_(solver), position_(position), most_(most) {}

  std::optional<std::vector<Prefix>> all() {
    std::vector<Prefix> prefixes{{{}, !game_.terminal}};
    for (std::size_t role = 0; role < game_.legal.size(); ++role) {
      if (!add_role(role, prefixes)) return std::nullopt;
    }
    return prefixes;
  }

 private:
  static constexpr int most_conflicts = 2'000;

  bool add_role(std::size_t role, std::vector<Prefix>& prefixes) {
    const auto& legal = game_.legal[role];
    std::vector<Prefix> result;
    // Prefixes with which the role may have any of its moves, and those with which it has only some
    // that are seldom a choice.
    std::vector<Prefix> free;
    std::vector<Prefix> bound = std::move(prefixes);
    std::vector<std::uint32_t> only;
    while (!bound.empty()) {
      if (!asked(bound, legal, only)) {
        free.insert(free.end(), bound.begin(), bound.end());
        bound.clear();
        break;
      }
      if (answer_ == Solver::Answer::impossible) break;
      const auto here = [&](Signal signal) { return solver_.holds(position_.literal(0, signal)); };
      std::vector<std::uint32_t> moves;
      for (std::uint32_t m = 0; m < legal.size(); ++m) {
        if (here(legal[m])) moves.push_back(m);
      }
      // A single move that is legal here belongs to those of roles that have no choice.
      if (moves.size() == 1 && only.size() < most_only) {
        only.push_back(moves.front());
        continue;
      }
      const auto none = std::stable_partition(
          bound.begin(), bound.end(), [&](const Prefix& prefix) { return !here(prefix.possible); });
      free.insert(free.end(), none, bound.end());
      bound.erase(none, bound.end());
    }
    const std::size_t count = bound.size() * only.size() + free.size() * legal.size();
    if (count > most_) return false;
    const auto add = [&](const Prefix& prefix, std::uint32_t move) {
      const Signal possible = network_.both(prefix.possible, legal[move]);
      if (possible == circuit::never) return;
      result.push_back({prefix.moves, possible});
      result.back().moves.push_back(move);
    };
    for (const Prefix& prefix : bound) {
      for (const std::uint32_t move : only) add(prefix, move);
    }
    for (const Prefix& prefix : free) {
      for (std::uint32_t move = 0; move < legal.size(); ++move) add(prefix, move);
    }
    prefixes = std::move(result);
    return true;
  }

  // Whether one of the prefixes is possible where the role has another move than these.
  bool asked(const std::vector<Prefix>& prefixes, const std::vector<Signal>& legal,
             const std::vector<std::uint32_t>& only) {
    std::vector<Signal> any;
    for (const Prefix& prefix : prefixes) any.push_back(prefix.possible);
    std::vector<Signal> other;
    for (std::uint32_t m = 0; m < legal.size(); ++m) {
      if (std::ranges::find(only, m) == only.end()) other.push_back(legal[m]);
    }
    const Signal question = network_.both(network_.any(any), network_.any(other));
    if (question == circuit::never) {
      answer_ = Solver::Answer::impossible;
      return true;
    }
    // What is read off afterwards must be there before.
    for (const Prefix& prefix : prefixes) position_.literal(0, prefix.possible);
    for (const Signal move : legal) position_.literal(0, move);
    answer_ = solver_.solve(std::vector{position_.literal(0, question)}, most_conflicts);
    return answer_ != Solver::Answer::unknown;
  }

  static constexpr std::size_t most_only = 8;

  const circuit::GameNetwork& game_;
  circuit::Network& network_;
  Solver& solver_;
  UnrolledGame& position_;
  std::size_t most_;
  Solver::Answer answer_ = Solver::Answer::unknown;
};

// What follows from no move at all, and from some, as far as that differs.
class Follower {
 public:
  Follower(const circuit::GameNetwork& game, circuit::Network& network)
      : game_(game), network_(network), size_(network.size()), value_(size_), followers_(size_) {
    for (std::uint32_t node = 0; node < size_; ++node) value_[node] = Signal(node, false);
    std::vector<bool> moved(size_, false);
    for (const auto& does : game.does) {
      for (const Signal move : does) {
        moved[move.node()] = true;
        value_[move.node()] = circuit::never;
      }
    }
    for (std::uint32_t node = 0; node < size_; ++node) {
      if (!network.is_gate(node)) continue;
      bool depends = false;
      for (const Signal operand : network.of(node)) {
        if (!moved[operand.node()]) continue;
        depends = true;
        followers_[operand.node()].push_back(Signal(node, operand.negated()));
      }
      if (!depends) continue;
      moved[node] = true;
      value_[node] = worked_out(node);
    }
    before_ = value_;
    by_next_.resize(size_);
    for (std::uint32_t f = 0; f < game.next.size(); ++f) by_next_[game.next[f].node()].push_back(f);
    for (std::uint32_t f = 0; f < game.next.size(); ++f) {
      if (now(game.next[f]) != game.fluents[f]) usual_.push_back(f);
    }
  }

  std::vector<SingleStep::Change> changes(const std::vector<std::uint32_t>& joint) {
    for (std::size_t role = 0; role < joint.size(); ++role) {
      set(game_.does[role][joint[role]].node(), circuit::always);
    }
    while (!open_.empty()) {
      const std::uint32_t node = open_.top();
      open_.pop();
      if (value_[node] == before_[node]) set(node, worked_out(node));
    }
    std::vector<std::uint32_t> fluents = usual_;
    for (const std::uint32_t node : touched_) {
      fluents.insert(fluents.end(), by_next_[node].begin(), by_next_[node].end());
    }
    std::ranges::sort(fluents);
    fluents.erase(std::unique(fluents.begin(), fluents.end()), fluents.end());
    std::vector<SingleStep::Change> result;
    for (const std::uint32_t f : fluents) {
      const Signal after = now(game_.next[f]);
      if (after != game_.fluents[f]) result.push_back({f, after});
    }
    for (const std::uint32_t node : touched_) value_[node] = before_[node];
    touched_.clear();
    queued_.clear();
    return result;
  }

 private:
  Signal now(Signal signal) const { return value_[signal.node()] ^ signal.negated(); }

  Signal worked_out(std::uint32_t node) {
    std::vector<Signal> operands;
    for (const Signal operand : network_.of(node)) {
      const Signal signal = now(operand);
      if (signal == circuit::never) return circuit::never;
      if (signal != circuit::always) operands.push_back(signal);
    }
    return network_.all(std::move(operands));
  }

  void set(std::uint32_t node, Signal value) {
    if (value == value_[node]) return;
    value_[node] = value;
    touched_.push_back(node);
    // A gate that has an operand now that does not hold is known without the others.
    for (const Signal follower : followers_[node]) {
      if ((value ^ follower.negated()) == circuit::never) {
        if (value_[follower.node()] == before_[follower.node()]) {
          set(follower.node(), circuit::never);
        }
      } else if (queued_.insert(follower.node()).second) {
        open_.push(follower.node());
      }
    }
  }

  const circuit::GameNetwork& game_;
  circuit::Network& network_;
  std::uint32_t size_;
  std::vector<Signal> value_;                   // by node
  std::vector<Signal> before_;                  // with no move made
  std::vector<std::vector<Signal>> followers_;  // the gates of a node, and whether they negate it
  std::vector<std::vector<std::uint32_t>> by_next_;
  std::vector<std::uint32_t> usual_;  // fluents that no move at all would change
  std::vector<std::uint32_t> touched_;
  absl::flat_hash_set<std::uint32_t> queued_;
  std::priority_queue<std::uint32_t, std::vector<std::uint32_t>, std::greater<>> open_;
};

}  // namespace

std::optional<std::vector<SingleStep>> single_steps(const circuit::GameNetwork& game,
                                                    circuit::Network& network,
                                                    const std::vector<Signal>& never,
                                                    const SingleStepLimits& limits) {
  Solver solver;
  UnrolledGame position(solver, game, network);
  for (const Signal signal : never) solver.add({-position.literal(0, signal)});
  const auto joints = Joints(game, network, solver, position, limits.joints).all();
  if (!joints) return std::nullopt;
  Follower follower(game, network);
  std::vector<SingleStep> result;
  std::size_t changes = 0;
  for (const Prefix& joint : *joints) {
    end_if_interrupted();
    result.push_back({joint.moves, joint.possible, follower.changes(joint.moves)});
    changes += result.back().changes.size();
    if (changes > limits.changes) return std::nullopt;
  }
  return result;
}

}  // namespace orchard::prove
