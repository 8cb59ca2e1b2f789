// What the opponents of the ladder have in common: the positions they look at (with hidden
// information, some that fit what the role knows), numbers for moves, and a random choice among the
// best.
//
// Belongs to one seat and one thread, as every opponent.
#pragma once

#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "explore/sampling/game_tree.hpp"
#include "opponents/features.hpp"
#include "opponents/preferences.hpp"
#include "orchard/opponent.hpp"
#include "orchard/random.hpp"

namespace orchard::opponents {

// Judges each legal move by a number and takes the best, at random among equals.
class JudgingOpponent : public Opponent {
 public:
  // `preferences`: rules of its own, if it has some; it plays the game that they are of.
  explicit JudgingOpponent(std::uint64_t seed,
                           std::shared_ptr<const Preferences> preferences = nullptr)
      : random_(seed), preferences_(std::move(preferences)) {}

  Move choose(const Situation& situation) final;
  void think_ahead(const Situation& situation) final;

 protected:
  // A number for each of the role's legal moves in a position, in the order of the circuit; empty
  // if it cannot be judged, `unknown` for a move of which nothing was found out. `certain`, by move
  // or empty: which numbers are no guesses.
  struct Judgement {
    Judgement(std::vector<double> numbers = {}) : worth(std::move(numbers)) {}  // NOLINT
    std::vector<double> worth;
    std::vector<bool> certain{};
  };
  static constexpr double unknown = std::numeric_limits<double>::quiet_NaN();
  // `positions` are looked at in all.
  virtual Judgement judge(const Row& row, std::size_t role, std::size_t positions) = 0;
  // Called while others choose in this position; what stays of it may help afterwards.
  virtual void judge_ahead(const Row& /*row*/, std::size_t /*role*/) {}
  // Called once before a choice, with the positions that will be judged.
  virtual void look_over(const std::vector<Row>& /*rows*/, std::size_t /*role*/) {}
  // How many positions to look at where the role does not know which it is.
  virtual std::size_t positions_to_draw() const { return 16; }
  // What `judge` gives is how often to make each move, to be drawn by.
  void draw_by_worth() { draws_ = true; }
  // The time that judging a position may take, where the choice has a deadline.
  std::optional<double> most_seconds() const { return most_seconds_; }
  // What may be kept for the next moves, if that is bounded.
  std::optional<std::uint64_t> most_bytes() const { return most_bytes_; }
  // Where the rules have no circuit: the plies of random games a choice may take, or the seconds.
  virtual std::uint64_t plies_without_circuit() const { return 1'000; }
  virtual std::optional<double> seconds_without_circuit() const { return std::nullopt; }
  // The tree is about to go: another game is to be played.
  virtual void forget_tree() {}
  GameTree& tree() { return *tree_; }
  const Features& features() { return Features::of(tree_->lanes()); }
  Random& random() { return random_; }
  const std::shared_ptr<const Preferences>& preferences() const { return preferences_; }

 private:
  // What is said of a move in many positions.
  struct Opinion {
    double certain = 0;    // the sum of what is certain
    std::size_t open = 0;  // positions in which nothing is
    std::vector<double> guesses;
  };
  std::vector<double> worth_by(const std::vector<Opinion>& opinions) const;
  void prepare(const Game& game);
  Move choose_without_circuit(Situation situation);
  void share_of_time(const Situation& situation, std::size_t positions);
  std::size_t drawn(std::vector<double> shares);
  std::vector<Row> rows_to_look_at(const Situation& situation);
  bool judge_position(const Situation& situation, const Row& row, std::size_t positions,
                      std::vector<Opinion>& opinions);

  Random random_;
  std::shared_ptr<const Preferences> preferences_;
  bool draws_ = false;
  std::optional<double> most_seconds_;
  std::optional<std::uint64_t> most_bytes_;
  std::shared_ptr<const GameCore> game_;
  std::unique_ptr<GameTree> tree_;
  std::unique_ptr<Opponent> without_circuit_;
};

// What is only likely is worth less than what is certainly won, and more than what is certainly
// lost.
template <class Number>
Number uncertain(Number share) {
  return static_cast<Number>(0.02) + static_cast<Number>(0.96) * share;
}

inline std::vector<double> as_numbers(const std::vector<float>& values) {
  return {values.begin(), values.end()};
}

}  // namespace orchard::opponents
