// What a review looks at: every position explored within a budget, and random games where that is
// not all.
//
// Positions belong to `explored`, which may be the game with further relations; lines of play are
// given back as lines of the game itself, replayed by the reference evaluator. One thread.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <variant>

#include "circuit/game_network.hpp"
#include "explore/sampled_games.hpp"
#include "explore/state_space.hpp"
#include "explore/watch.hpp"
#include "game/core.hpp"
#include "orchard/line.hpp"

namespace orchard::review {

using circuit::Signal;
using explore::SampledGames;
using explore::StateSpace;

class Exploration {
 public:
  // `explored` has the roles, fluents and moves of `game`; its lanes must exist.
  Exploration(const Game& game, const Game& explored, std::uint64_t seed);

  // Fails if a checkpoint cannot be read or written.
  Diagnostics explore(const Budget& budget, unsigned threads);

  const Game& game() const { return game_; }
  const Game& explored() const { return explored_; }
  const LaneGame& lanes() const { return lanes_; }
  const ground::GroundProgram& ground() const { return lanes_.ground(); }
  const StateSpace& space() const { return space_; }
  Ending ending() const { return ending_; }
  bool complete() const { return ending_ == Ending::complete; }
  bool is_chance(std::size_t role) const { return game_.roles()[role].is_chance(); }

  // Where something was met: a position explored, or a place of a random game.
  using Spot = std::variant<StateSpace::Number, SampledGames::Place>;
  struct Sighting {
    std::optional<Spot> first;
    std::uint64_t count = 0;  // positions explored in which it holds
  };
  // Where signals hold that depend on a position alone: among the positions explored, and, where
  // nothing was found there and they are not all, in the random games.
  std::vector<Sighting> look(const circuit::Network& network, std::vector<Signal> signals);

  // A joint move in a position explored, by its number there; none at an end, or where the position
  // was not looked at.
  struct StepPlace {
    static constexpr std::size_t no_step = ~std::size_t{0};
    StateSpace::Number position = 0;
    std::size_t step = no_step;
  };
  // Lets a watch look at every joint move of every position explored, some at a time.
  void look_at_steps(explore::Watch& watch,
                     const std::function<void(std::span<const StepPlace>)>& visit) const;

  // The random games: made at the first call, always the same.
  static constexpr std::size_t sample_batches = 4;  // of 512 games, fewer if they are long
  using SampleVisit = SampledGames::Visit;
  void sample(const SampleVisit& visit);
  std::size_t sampled_games() const { return samples_ ? samples_->games() : 0; }
  // The games last sampled.
  const SampledGames& samples() const { return *samples_; }

  Line line_to(const Spot& spot) const;
  // The line through positions that follow one another in the explored space.
  Line line_through(const std::vector<StateSpace::Number>& positions) const;
  JointMove joint_move(std::span<const std::uint32_t> numbers) const;
  // The move numbers of a joint move of a position, as the space numbers its steps.
  std::vector<std::uint32_t> joint_of(const std::vector<std::vector<std::uint32_t>>& legal,
                                      std::size_t step) const;

  // What the answer is about, for its evidence: "in all 2545 positions", or "in the 2000000
  // positions up to depth 7 and in 2048 random games".
  std::string extent() const;

 private:
  Line replay(const std::vector<JointMove>& joints) const;

  Game game_;
  Game explored_;
  const LaneGame& lanes_;
  std::vector<std::uint64_t> start_;
  StateSpace space_;
  std::uint64_t seed_;
  Ending ending_ = Ending::complete;
  std::unique_ptr<SampledGames> samples_;
};

// With the usual bounds where none are set.
Budget with_defaults(Budget budget);

}  // namespace orchard::review
