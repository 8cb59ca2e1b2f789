// Questions on up to 512 positions at once, answered by the circuit of a game.
//
// Positions are rows of bits, one for each fluent in the order of the ground program; moves and
// values are named by their numbers there. What it costs hardly depends on how many positions there
// are. The scratch memory is its own: one evaluator a thread; the game must outlive it.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "circuit/lanes/joint_lanes.hpp"
#include "game/lane_game.hpp"

namespace orchard {

class LaneEvaluator {
 public:
  explicit LaneEvaluator(const LaneGame& game,
                         std::optional<circuit::Executor::Kind> kind = std::nullopt);

  const LaneGame& game() const { return game_; }
  std::size_t words() const { return words_; }  // of a position

  // Takes up to `circuit::lanes` positions and works out what depends on them alone.
  void set_positions(std::span<const std::uint64_t> rows, std::size_t count);
  // Takes positions only for going on from them; keeps the joint moves that were set.
  void load(std::span<const std::uint64_t> rows, std::size_t count);
  std::size_t count() const { return count_; }
  bool terminal(std::size_t at) const { return (answers(at)[0] & 1) != 0; }
  bool is_legal(std::size_t at, std::size_t role, std::size_t move) const {
    return bit(answers(at), game_.first_move(role) + move);
  }
  // The numbers of a role's legal moves, ascending.
  void legal(std::size_t at, std::size_t role, std::vector<std::uint32_t>& moves) const;
  std::size_t legal_count(std::size_t at, std::size_t role) const;
  // The numbers of its goal values, ascending.
  void goals(std::size_t at, std::size_t role, std::vector<std::uint32_t>& values) const;

  bool goal(std::size_t at, std::size_t role, std::size_t value) const {
    return bit(answers(at), game_.first_goal(role) + value);
  }

  // All answers of a position: see LaneGame::first_move.
  std::span<const std::uint64_t> answers_row(std::size_t at) const {
    return {answers(at), answer_words_};
  }
  // Whether moves are legal that a guided game does not list (see `lane_game.hpp`).
  bool undeclared(std::size_t at) const {
    return bit(answers(at), game_.first_goal(game_.ground().goals().size()));
  }

  // The joint move in a position, a number for each role; then `step` makes all of them.
  void set_joint(std::size_t at, std::span<const std::uint32_t> joint);
  void step();
  std::span<const std::uint64_t> next(std::size_t at) const {
    return std::span(next_rows_).subspan(at * words_, words_);
  }
  // After `load` and joint moves: makes them and works out only what stands where they lead.
  void judge_next();
  const circuit::LaneBlock& next_terminal() const { return reports_.front(); }
  bool next_goal(std::size_t at, std::size_t role, std::size_t value) const {
    return (reports_[game_.first_goal(role) + value].words[at / 64] >> at % 64 & 1) != 0;
  }
  void percepts(std::size_t at, std::size_t role, std::vector<std::uint32_t>& values) const;
  // Whether what follows holds fluents that a guided game does not list.
  bool next_undeclared(std::size_t at) const {
    return bit(percepts_.data() + at * percept_words_, first_percept_.back());
  }

 private:
  using Rows = std::vector<std::uint64_t>;
  static bool bit(const std::uint64_t* row, std::size_t number) {
    return (row[number / 64] >> (number % 64) & 1) != 0;
  }
  const std::uint64_t* answers(std::size_t at) const {
    return answers_.data() + at * answer_words_;
  }

  const LaneGame& game_;
  const LaneGame::Answering* answering_;
  std::optional<LaneGame::Answering> own_;  // of an executor asked for by kind
  std::size_t words_;
  std::size_t answer_words_;
  std::size_t percept_words_;
  std::size_t count_ = 0;
  std::vector<std::size_t> first_percept_;  // by role, and the end
  circuit::JointLanes joints_;
  std::vector<circuit::LaneBlock> state_;  // fluents, then moves
  std::vector<circuit::LaneBlock> next_;
  std::vector<circuit::LaneBlock> ahead_;  // as `state_`, a ply later; made at first use
  std::vector<circuit::LaneBlock> reports_;
  std::vector<circuit::LaneBlock> scratch_;
  Rows answers_;
  Rows next_rows_;
  Rows percepts_;
};

}  // namespace orchard
