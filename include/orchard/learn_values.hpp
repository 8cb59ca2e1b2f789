// An opponent that learns the worth of its moves from its own games.
//
//   orchard::ValueTable table(game, east, {.step = 0.2});
//   auto curve = orchard::learn(game, table, {.games = 5000}).value();
//
// For every position and move there is an estimate of what it comes to, 0 to 1. After each match
// the moves chosen are gone through from the last: each estimate moves a step towards the best one
// of the position that its role came to next, the last one towards the result (Q-learning, Watkins
// 1989, with the estimates of a match handed back at its end). While learning, a move is tried at
// random now and then.
//
// A table belongs to one thread at a time.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "orchard/learn.hpp"

namespace orchard {

// The rates at which values are learnt.
struct ValueRules {
  double step = 0.2;     // of an estimate towards what it was worth, above 0 to 1
  double explore = 0.1;  // share of moves tried at random while learning
  double initial = 0.6;  // of a move never tried: hopeful, so that it is tried
  // One row for positions that the rules do not tell apart (mirrored boards and the like).
  bool alike = true;
};

// What was learnt as values, by position and move.
class ValueTable {
 public:
  // A table that has learnt nothing yet.
  ValueTable(const Game& game, Role role, ValueRules rules = {});

  // The role that learns.
  const Role& role() const { return rows_.role(); }
  // The rates at which it learns.
  const ValueRules& rules() const { return rules_; }
  std::uint64_t games() const { return games_; }  // learnt from

  // One position of the table.
  struct Entry {
    // The position, or the one that stands for all symmetric ones.
    Position position;
    std::map<std::string, double> values;  // by move
    // Every move has come to nothing: whatever is played here is bad, for all the table knows.
    bool is_hopeless() const;
  };
  // How many positions it has.
  std::size_t size() const { return rows_.size(); }
  // In the order of the positions' texts.
  std::vector<Entry> entries() const;
  // Of a move in a position.
  double value(const Position& position, const Move& move) const;

  // The mean of both where both know a move. Fails with `other-table`.
  Diagnostics merge(const ValueTable& other);

  // The whole table as a JSON document, for `from_json`.
  std::string to_json() const;
  // Fails with `bad-table`, or `other-table` if it is of other rules or another role.
  static Result<ValueTable> from_json(const Game& game, const std::string& text);

 private:
  friend class ValuePlayer;

  ValueRules rules_;
  std::uint64_t games_ = 0;
  LearntRows<double> rows_;
};

// Plays the best move of the table; learns from every match it is told the end of, if `learning`.
std::unique_ptr<Opponent> value_player(std::shared_ptr<ValueTable> table, std::uint64_t seed,
                                       bool learning);

// Plays games and learns from them. Fails with the diagnostics of make_opponent.
Result<LearningCurve> learn(const Game& game, ValueTable& table, const LearnOptions& options);

// Who plays by a table of either kind, given its text, without learning more.
Result<std::unique_ptr<Opponent>> learned_player(const Game& game, const std::string& text,
                                                 std::uint64_t seed);

// A player whose table learns from every match that it is told the end of.
struct LearningPlayer {
  std::unique_ptr<Opponent> opponent;
  std::function<std::string()> table;  // as it is now, for a file
};
// By a table of either kind, given its text; by a new table of tokens if that is empty. Fails with
// `other-role` if the table is another role's.
Result<LearningPlayer> learning_player(const Game& game, const Role& role, const std::string& text,
                                       std::uint64_t seed);

}  // namespace orchard
