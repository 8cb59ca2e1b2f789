// An opponent that learns from its own games, by a table of tokens.
//
//   orchard::TokenTable table(game, amber);
//   orchard::LearnOptions options{.games = 2000};
//   auto curve = orchard::learn(game, table, options).value();
//   write_file("amber.tokens", table.to_json());
//
// In every position each legal move has some tokens; a move is drawn in proportion to them. When a
// match is over the last move chosen gains or loses tokens by its result. A position that is left
// without tokens takes one from the move that led there, and plays at random from then on. To lose
// before ever having chosen does no harm.
//
// A table belongs to one thread at a time.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/learnt_rows.hpp"
#include "orchard/match.hpp"

namespace orchard {

// How tokens are given and taken.
struct TokenRules {
  std::int64_t initial = 3;  // of a move in a position met for the first time
  std::int64_t win = 1;      // gained by the last move after a win
  // Gained by the last move after a draw; by a role that plays alone, after a goal that is neither
  // a win nor a loss. A game that gets stuck changes nothing.
  std::int64_t draw = 0;
  // Gained by the last move after a loss; negative to take tokens away.
  std::int64_t loss = -1;
  // One row for positions that the rules do not tell apart (mirrored boards and the like).
  bool alike = true;
};

// What was learnt as tokens, by position and move.
class TokenTable {
 public:
  // A table that has learnt nothing yet.
  TokenTable(const Game& game, Role role, TokenRules rules = {});

  // The role that learns.
  const Role& role() const { return rows_.role(); }
  // The numbers of tokens that are given and taken.
  const TokenRules& rules() const { return rules_; }
  std::uint64_t games() const { return games_; }  // learnt from

  // One position of the table.
  struct Entry {
    // The position, or the one that stands for all symmetric ones.
    Position position;
    std::map<std::string, std::int64_t> tokens;  // by move
    // Every move has been lost: whatever is played here is bad, for all the table knows.
    bool is_hopeless() const;
  };
  // How many positions it has.
  std::size_t size() const { return rows_.size(); }
  // In the order of the positions' fluents; numbers in them as one counts.
  std::vector<Entry> entries() const;
  // Of a move in a position.
  std::int64_t tokens(const Position& position, const Move& move) const;

  // Adds what another table of the same game, role and rules has gained and lost. Fails with
  // `other-table`.
  Diagnostics merge(const TokenTable& other);

  // The whole table as a JSON document, for `from_json`.
  std::string to_json() const;
  // Fails with `bad-table`, or `other-table` if it is of other rules or another role.
  static Result<TokenTable> from_json(const Game& game, const std::string& text);

 private:
  friend class TokenPlayer;

  TokenRules rules_;
  std::uint64_t games_ = 0;
  LearntRows<std::int64_t> rows_;
};

// Plays by the table; learns from every match it is told the end of, if `learning`. It shares the
// table with whoever else holds it.
std::unique_ptr<Opponent> token_player(std::shared_ptr<TokenTable> table, std::uint64_t seed,
                                       bool learning);

// How many games are played for learning, and against whom.
struct LearnOptions {
  // The number of games to learn from.
  std::uint64_t games = 1000;
  std::uint64_t block = 100;  // games a point of the curve
  // The seed of all random choices.
  std::uint64_t seed = 1;
  // After which a game is broken off.
  std::uint64_t plies = 10'000;
  std::map<std::string, std::string> against{};  // who plays the other roles; random if not named
  // Opponents of one's own for them, instead; made once, with a seed.
  std::map<std::string, std::function<std::unique_ptr<Opponent>(std::uint64_t)>> makers{};
  std::vector<Position> starts{};  // one is drawn for each game; the game's start if none
  std::uint64_t random_plies = 0;  // up to so many random plies before the learner begins
  // Limits of time and a stop token; a game that they break off teaches nothing.
  Budget budget{};
  // Called now and then while learning, with the table up to date, so that little is lost when the
  // process ends early.
  std::function<void()> save{};
  // Called after every game that was played to its end, or broken off by `plies`.
  std::function<void(const Match&)> ended{};
  // The least number of seconds between two calls of it.
  double save_every = 30;
};

// The games of one block of a learning curve, and what they were to the learner.
struct LearnBlock : Tally {
  // The number of games in the block.
  std::uint64_t games = 0;
};

// How the results changed while a table learnt.
struct LearningCurve {
  // The games that the table had learnt from before.
  std::uint64_t begun_after = 0;
  // The blocks in the order in which they were played.
  std::vector<LearnBlock> blocks;
  // Why learning ended.
  Ending ending = Ending::complete;
};

// Plays games and learns from them. Fails with the diagnostics of make_opponent.
Result<LearningCurve> learn(const Game& game, TokenTable& table, const LearnOptions& options);

}  // namespace orchard
