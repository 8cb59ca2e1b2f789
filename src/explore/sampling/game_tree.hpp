// Positions and what follows from them, as whoever looks ahead sees them: numbers instead of terms,
// all children of a position worked out at once on the circuit.
//
// What was looked at is kept, up to a bound; then everything is forgotten at the next question. One
// thread at a time; the game must outlive it.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <optional>
#include <string>
#include <vector>

#include "explore/sampling/random_games.hpp"
#include "game/core.hpp"

namespace orchard::explore {

using Row = std::vector<std::uint64_t>;  // a bit for each fluent

struct Node {
  bool over = false;                              // terminal, or a role is stuck
  std::vector<float> shares;                      // by role, of what is derived here, 0 to 1
  std::vector<std::vector<std::uint32_t>> legal;  // by role, numbers of moves; none at an end
};

// All joint moves of a position, the first role's choice changing fastest.
struct Children {
  std::vector<Row> rows;
  std::vector<Node> nodes;
};

class GameTree {
 public:
  // Null if the game has no circuit.
  static std::unique_ptr<GameTree> make(const Game& game);
  static std::unique_ptr<GameTree> make(const LaneGame& lanes);

  std::optional<Row> row_of(const Position& position) const;
  std::optional<std::uint32_t> move_number(std::size_t role, const Move& move) const;
  const LaneGame& lanes() const { return lanes_; }
  std::size_t roles() const { return shares_.roles(); }
  bool is_chance(std::size_t role) const { return chance_ == role; }

  Node node(const Row& row);
  std::vector<Node> nodes(std::span<const Row> rows);
  const Children& children(const Row& row, const Node& node);
  // What follows from joint moves in positions, one each.
  std::vector<Row> next(std::span<const Row> rows,
                        std::span<const std::vector<std::uint32_t>> joints);
  // Random games from positions: the shares of the roles, count × roles.
  std::vector<float> play(std::span<const Row> rows, Random& random);

  // How long random games from a position go on.
  double mean_plies(const Row& row, std::size_t games, Random& random);

 private:
  GameTree(const GameCore& core, const LaneGame& lanes);
  void read_nodes(std::size_t count, std::vector<Node>& nodes);

  static constexpr std::size_t most_kept = 20'000;  // positions whose children are kept

  const GameCore& core_;
  const LaneGame& lanes_;
  LaneEvaluator evaluator_;
  RandomGames games_;
  GoalShares shares_;
  std::size_t chance_ = static_cast<std::size_t>(-1);
  absl::flat_hash_map<Row, Children> kept_;
};

}  // namespace orchard::explore
