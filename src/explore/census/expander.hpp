// What follows from positions, all joint moves of them: the step that exploring a game repeats.
//
// Positions are keys: strings of bytes, equal exactly if the positions are. One thread at a time;
// the game must outlive it.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <string_view>

#include "game/core.hpp"

namespace orchard {

class Expander {
 public:
  enum class Kind { open, terminal, stuck };  // stuck: no end, but some role has no legal move

  virtual ~Expander() = default;

  virtual std::string key_of(std::span<const TermId> fluents) = 0;
  // Takes up to `most` positions.
  virtual std::size_t most() const = 0;
  virtual void set(std::span<const std::string_view> keys) = 0;
  virtual Kind kind(std::size_t at) const = 0;
  // Every joint move in every open position, in the order of the positions and, for one of them,
  // of the moves (the first role's change fastest): which position it was, and what follows.
  using Visit = std::function<void(std::size_t at, std::string_view next)>;
  virtual void expand(const Visit& visit) = 0;
};

// Thrown by an expander on a guided circuit (see `lane_game.hpp`) that meets what is not declared.
class Undeclared : public std::exception {};

// On the circuit of the game if it has one and it foresees the fluents of `start`, by the reference
// evaluator if not: what that cannot answer is thrown as logic::LimitExceeded.
std::unique_ptr<Expander> make_expander(const GameCore& core, std::span<const TermId> start);
// Of one kind; lanes need a game.
std::unique_ptr<Expander> make_reference_expander(const GameCore& core);
std::unique_ptr<Expander> make_lane_expander(const LaneGame& game);

}  // namespace orchard
