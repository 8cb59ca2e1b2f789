// Leaves of a search tree, worked out hundreds at a time on the circuit: where a joint move leads,
// what is legal there, which moves end the game at once, and what random games from there come to.
//
// A worker belongs to one thread; the game must outlive it.
#pragma once

#include <cstdint>
#include <vector>

#include "explore/sampling/random_games.hpp"
#include "game/lane_evaluator.hpp"
#include "opponents/preferences.hpp"

namespace orchard::opponents {

struct Leaves {
  // What is asked: positions, a move of each role in them, and how many games to play.
  std::vector<std::uint64_t> from;    // leaf × words
  std::vector<std::uint32_t> joints;  // leaf × roles
  std::vector<std::uint32_t> games;   // by leaf
  std::size_t count() const { return games.size(); }
  void clear();  // of questions

  // What is answered.
  std::vector<std::uint64_t> rows;        // leaf × words
  std::vector<char> over;                 // terminal, or a role is stuck
  std::vector<float> shares;              // leaf × roles, 0 to 1: of the end, or the mean of games
  std::vector<std::uint32_t> moves;       // legal ones, leaf by leaf, role by role
  std::vector<std::uint32_t> first_move;  // of leaf × roles + role; one more at the end
  // The only role with a choice, the first one if none has any; `several` where more choose at
  // once, or chance does.
  static constexpr std::uint32_t several = 0xFFFFFFFF;
  std::vector<std::uint32_t> chooser;  // by leaf
  // Moves of the only role with a choice that end the game; where none was found for long, they are
  // looked for only now and then.
  struct End {
    std::uint32_t leaf = 0;
    std::uint32_t choice = 0;  // which of its legal moves
  };
  std::vector<End> ends;          // in the order of choices
  std::vector<float> end_shares;  // end × roles
};

class LeafWorker {
 public:
  // `worth`: judges leaves in place of random games, if there is one.
  explicit LeafWorker(const LaneGame& game, std::shared_ptr<const Preferences> worth = nullptr);

  const LaneGame& game() const { return game_; }
  std::size_t words() const { return words_; }
  std::size_t roles() const { return shares_.roles(); }
  bool is_chance(std::size_t role) const { return chance_ == role; }

  // Whether games that go on tell a little: of two losses the later one is less bad, of two wins
  // the earlier one better. For where results alone tell moves apart too seldom.
  void count_length(bool count) { counts_length_ = count; }
  void work(Leaves& leaves, Random& random);
  // One position by itself as a leaf, without games.
  void look_at(const std::vector<std::uint64_t>& row, Leaves& leaves);

 private:
  static void forget_answers(Leaves& leaves);
  void read_positions(std::span<const std::uint64_t> rows, std::size_t count, Leaves& leaves);
  void look_for_ends(Leaves& leaves);
  void judge_by_worth(Leaves& leaves);
  void judge_by_games(Leaves& leaves, Random& random);

  const LaneGame& game_;
  LaneEvaluator evaluator_;
  RandomGames games_;
  std::size_t words_;
  GoalShares shares_;
  std::optional<WorthReader> worth_;
  std::size_t chance_ = static_cast<std::size_t>(-1);
  std::uint32_t rounds_without_ends_ = 0;
  bool counts_length_ = false;
  std::vector<std::uint32_t> numbers_;
};

}  // namespace orchard::opponents
