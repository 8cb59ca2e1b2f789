// A game as lanes: what the circuit room makes of it, once, and shared by all who play at random.
//
// There is one, exact, wherever the rules can be instantiated within the limits of `instantiate`;
// it answers for every position of fluents that some line of play from the start could foresee.
// Where they cannot, but within what `base` and `input` declare, there is a *guided* one: it lists
// no more than that, and who uses it looks at `undeclared` of the evaluator, or for conflicts in
// random play. Constant once made, but for what is made at its first use; safe to share between
// threads.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <memory>
#include <mutex>
#include <optional>
#include <typeindex>

#include "circuit/lanes/executor.hpp"
#include "circuit/programs/play_program.hpp"
#include "circuit/programs/position_programs.hpp"
#include "ground/ground_program.hpp"

namespace orchard {

class GameCore;

class LaneGame {
 public:
  // Fails if the rules take more memory than they may, or grow without end, even guided; is left by
  // `Interrupted` if it takes too long (see GameCore::lanes_or_guided).
  static Result<std::shared_ptr<const LaneGame>> make(const GameCore& core);
  // The first part of it.
  static Result<std::shared_ptr<const ground::GroundProgram>> instantiate(
      const GameCore& core, bool guided = false, const ground::Splitting& splitting = {});
  bool guided() const { return !why_guided_.empty(); }
  const Diagnostics& why_guided() const { return why_guided_; }  // empty if it is not
  const GameCore& core() const { return *core_; }

  const ground::GroundProgram& ground() const { return *ground_; }
  const circuit::GameNetwork& network() const { return network_; }

  // Where the moves of a role begin among the bits that answer for a position, and its goal values:
  // behind whether it is an end, role by role.
  std::size_t first_move(std::size_t role) const { return first_move_[role]; }
  std::size_t first_goal(std::size_t role) const { return first_goal_[role]; }
  // Of the row of a position, one at least.
  std::size_t words() const;

  // What belongs to an exploration from a row, in one line: the rules with their sizes, and the
  // row.
  std::string identity(std::span<const std::uint64_t> from) const;

  // The fluents of a position by number; none if one of them is not foreseen.
  std::optional<std::vector<bool>> bits(const std::vector<rules::TermId>& fluents) const;
  // The same as a row of words, 64 fluents each.
  std::vector<std::uint64_t> row(const std::vector<bool>& bits) const;
  // The number of a fluent, and of a role's move; none if it is not foreseen.
  std::optional<std::uint32_t> fluent_number(rules::TermId fluent) const;
  std::optional<std::uint32_t> move_number(std::size_t role, rules::TermId move) const;

  // What answers questions on given positions: `LaneEvaluator` is its reader.
  struct Answering {
    circuit::PositionPrograms programs;
    std::unique_ptr<const circuit::Executor> position;
    std::unique_ptr<const circuit::Executor> step;
  };
  Answering answering(std::optional<circuit::Executor::Kind> kind) const;
  const Answering& answering() const;  // by the fastest; made at the first call

  // Which roles were seen to choose one at a time; sampled at the first call.
  const circuit::ChoiceGroups& choice_groups() const;
  // Random play from a position, with shared choices or with a choice for every role.
  circuit::PlayProgram play_program(const std::vector<bool>& initial, bool shared) const;

  struct Ready {
    circuit::PlayProgram program;
    std::unique_ptr<const circuit::Executor> executor;
  };
  // The same with what runs it; an executor of a kind, or the fastest.
  Ready ready(const std::vector<bool>& initial, bool shared,
              std::optional<circuit::Executor::Kind> kind) const;
  // From the start of the game, by the fastest, with shared choices: made at the first call.
  const Ready& from_start() const;

  // What a room above makes of the game, once for all who ask: `make()` → T at the first call. It
  // may ask for others, and must not hold the game.
  template <class T, class Make>
  const T& once(Make&& make) const {
    Slot& slot = slot_of(typeid(T));
    std::call_once(slot.made, [&] { slot.value = std::make_shared<T>(make()); });
    return *static_cast<const T*>(slot.value.get());
  }

 private:
  struct Slot {  // a place for one thing that is made once
    std::once_flag made;
    std::shared_ptr<void> value;
  };
  LaneGame() = default;
  Slot& slot_of(std::type_index type) const;  // found, or made, under the mutex

  std::shared_ptr<const ground::GroundProgram> ground_;
  circuit::GameNetwork network_;
  Diagnostics why_guided_;
  std::vector<std::size_t> first_move_;  // by role, and the end
  std::vector<std::size_t> first_goal_;
  const GameCore* core_ = nullptr;                                               // its owner
  absl::flat_hash_map<rules::TermId, std::uint32_t> numbers_;                    // of fluents
  std::vector<absl::flat_hash_map<rules::TermId, std::uint32_t>> move_numbers_;  // by role
  mutable std::once_flag groups_once_;
  mutable circuit::ChoiceGroups groups_;
  mutable std::once_flag start_once_;
  mutable Ready start_;
  mutable std::mutex slots_mutex_;
  mutable absl::flat_hash_map<std::type_index, std::unique_ptr<Slot>> slots_;
  mutable std::once_flag answering_once_;
  mutable Answering answering_;
};

}  // namespace orchard
