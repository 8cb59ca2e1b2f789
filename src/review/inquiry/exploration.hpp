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

#include "circuit/programs/game_network.hpp"
#include "explore/census/sweep.hpp"
#include "explore/sampling/sampled_games.hpp"
#include "explore/space/state_space.hpp"
#include "explore/space/watch.hpp"
#include "game/core.hpp"
#include "orchard/line.hpp"
#include "orchard/review.hpp"

namespace orchard::review {

using circuit::Signal;
using explore::SampledGames;
using explore::StateSpace;

class Exploration {
 public:
  // `explored` has the roles, fluents and moves of `game`; its lanes must exist.
  Exploration(const Game& game, const Game& explored, std::uint64_t seed);

  // One of each class of positions that the rules do not tell apart, or all of them: `automatic`
  // keeps all of a small space. Fails if a checkpoint cannot be read or written. Where that leaves
  // positions out, `look` may
  // still look at all of them by themselves, if they are not more than the budget says (60 million
  // if it does not).
  Diagnostics explore(const Budget& budget, unsigned threads, ReviewOptions::Symmetry symmetry);
  // From now on nothing beyond the positions explored is looked at, and nothing proved: for a quick
  // look at the first plies.
  void keep_to_explored() { keeps_to_explored_ = true; }
  bool keeps_to_explored() const { return keeps_to_explored_; }

  // Whether the rules are so large that every question costs much: then no budget explores much,
  // and what is not likely to help is left out of proofs.
  static bool is_large(const LaneGame& lanes) {
    constexpr std::uint32_t many_gates = 20'000;
    return lanes.network().network.size() > many_gates;
  }

  const Game& game() const { return game_; }
  const Game& explored() const { return explored_; }
  const LaneGame& lanes() const { return lanes_; }
  const ground::GroundProgram& ground() const { return lanes_.ground(); }
  const StateSpace& space() const { return *space_; }
  Ending ending() const { return ending_; }
  bool complete() const { return ending_ == Ending::complete && !cut_short_; }
  // Whether the budget ended while positions explored were looked at: what was seen is there, and
  // of the rest nothing is known.
  bool cut_short() const { return cut_short_; }
  // Whether `look` looked at every position, explored or not; how it looked at more than were
  // explored, null if it did not; and how many it looked at.
  bool looked_at_all() const { return complete() || (sweep_ && sweep_->complete() && !cut_short_); }
  const explore::Sweep* swept() const { return sweep_.get(); }
  std::uint64_t positions() const { return sweep_ ? sweep_->positions() : space_->positions(); }
  bool is_chance(std::size_t role) const { return game_.roles()[role].is_chance(); }

  // Where something was met: a position explored, one beyond them, a place of a random game, or the
  // end of a line of play that was worked out, as the numbers of its moves.
  using Beyond = explore::Sweep::Sighting;
  struct WorkedOut {
    std::vector<std::vector<std::uint32_t>> joints;
  };
  using Spot = std::variant<StateSpace::Number, Beyond, SampledGames::Place, WorkedOut>;
  static bool is_shortest(const Spot& spot) {
    return std::holds_alternative<StateSpace::Number>(spot) || std::holds_alternative<Beyond>(spot);
  }
  struct Sighting {
    std::optional<Spot> first;
    std::uint64_t count = 0;  // positions looked at in which it holds
  };
  // Where signals hold that depend on a position alone: among the positions explored, and where
  // they are not all, among all there are, or in the random games.
  std::vector<Sighting> look(const circuit::Network& network, std::vector<Signal> signals);

  // Lets copies of a watch, one for each thread, look at every position explored, up to 512 at a
  // time: then calls visit(thread, watch, positions). What the threads are given at once lies in
  // different stretches of `numbers_apart` numbers.
  static constexpr StateSpace::Number numbers_apart = 64;
  using PositionsVisit = std::function<void(std::size_t thread, const explore::Watch& watch,
                                            std::span<const StateSpace::Number> positions)>;
  void look_at_positions(const explore::Watch& watch, const PositionsVisit& visit) const;

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

  // The random games: made at the first call, always the same; none if it keeps to what is
  // explored.
  static constexpr std::size_t sample_batches = 4;  // of 512 games, fewer if they are long
  using SampleVisit = SampledGames::Visit;
  void sample(const SampleVisit& visit);
  std::size_t sampled_games() const { return samples_ ? samples_->games() : 0; }
  // The games last sampled.
  const SampledGames& samples() const { return *samples_; }

  Line line_to(const Spot& spot) const;
  // To the spot and on with a joint move that depends on the row there, if there is one.
  using LastMove =
      std::function<std::optional<std::vector<std::uint32_t>>(std::span<const std::uint64_t> row)>;
  Line line_to(const Spot& spot, const LastMove& last) const;
  // A line and one more joint move.
  Line continued(const Line& line, const JointMove& joint) const;
  std::uint64_t depth_of(const Spot& spot) const;  // plies from the start
  // The line through positions that follow one another in the explored space.
  Line line_through(const std::vector<StateSpace::Number>& positions) const;
  JointMove joint_move(std::span<const std::uint32_t> numbers) const;
  // What each role can do in a position explored, in the order in which the space numbers its
  // steps; the evaluator is set to something else.
  using Legal = std::vector<std::vector<std::uint32_t>>;
  Legal legal_at(StateSpace::Number position, LaneEvaluator& evaluator) const;
  // The move numbers of the joint move that a step makes.
  std::vector<std::uint32_t> joint_of(const Legal& legal, std::size_t step) const;

  // How far an answer about positions reaches, and one that depends on joint moves too.
  Reach reach() const;
  Reach reach_of_steps() const;

 private:
  std::vector<Sighting> look_at_explored(const explore::Watch& watch);
  void sweep(const circuit::Network& network, const std::vector<Signal>& signals,
             std::vector<Sighting>& sightings);
  StateSpace::Number end_of_layer(std::size_t depth) const;
  std::size_t last_whole_layer() const;  // all positions of it were found
  Reach reach_up_to(std::size_t depth) const;
  double layer_beyond() const;
  explore::SymmetryGroup useful_symmetry() const;
  std::vector<std::vector<std::uint32_t>> joints_to(const Spot& spot) const;  // not explored
  Line replay(const std::vector<JointMove>& joints) const;

  Game game_;
  Game explored_;
  const LaneGame& lanes_;
  std::vector<std::uint64_t> start_;
  std::unique_ptr<StateSpace> space_;
  std::uint64_t seed_;
  Ending ending_ = Ending::complete;
  Budget sweep_budget_;
  explore::Sweep::Most most_swept_;
  unsigned threads_ = 1;
  std::unique_ptr<const explore::Sweep> sweep_;  // if it looked at every position
  bool keeps_to_explored_ = false;
  bool cut_short_ = false;
  std::unique_ptr<SampledGames> samples_;
};

// With the usual bounds where none are set.
Budget with_defaults(Budget budget);

// What best play or force comes to is worked out with the position in view. Where something is
// hidden from a role, that has to be said with it.
inline bool all_is_seen(const Exploration& exploration) {
  return !exploration.game().has_hidden_information();
}

}  // namespace orchard::review
