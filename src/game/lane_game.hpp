// A game as lanes: what the circuit room makes of it, once, and shared by all who play at random.
//
// This is where it is decided what answers: lanes wherever the rules can be instantiated within the
// limits below, the reference evaluator where they cannot, or where a position holds a fluent that
// no line of play from the start could foresee. Constant once made, but for what is made at its
// first use; safe to share between threads.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <memory>
#include <mutex>
#include <optional>

#include "circuit/executor.hpp"
#include "circuit/play_program.hpp"
#include "ground/ground_program.hpp"

namespace orchard {

class GameCore;

class LaneGame {
 public:
  // Fails if the rules have too many instances, or cost too much to instantiate.
  static Result<std::shared_ptr<const LaneGame>> make(const GameCore& core);
  // The first part of it.
  static Result<std::shared_ptr<const ground::GroundProgram>> instantiate(const GameCore& core);

  const ground::GroundProgram& ground() const { return *ground_; }
  const circuit::GameNetwork& network() const { return network_; }

  // The fluents of a position by number; none if one of them is not foreseen.
  std::optional<std::vector<bool>> bits(const std::vector<rules::TermId>& fluents) const;

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

 private:
  LaneGame() = default;

  std::shared_ptr<const ground::GroundProgram> ground_;
  circuit::GameNetwork network_;
  circuit::ChoiceGroups groups_;
  std::vector<std::vector<bool>> waiting_;                     // by role and move
  absl::flat_hash_map<rules::TermId, std::uint32_t> numbers_;  // of fluents
  mutable std::once_flag start_once_;
  mutable Ready start_;
};

}  // namespace orchard
