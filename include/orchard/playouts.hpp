// Games in which every role chooses uniformly among its legal moves: statistics over many, or one
// of them position by position.
//
// `run_playouts` plays hundreds of games side by side where the rules allow it, the same ones for
// the same seed and number of games, whatever the number of threads and the kind of processor.
// `random_walk` plays game k of a seed by itself, the same one wherever it is asked for.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/game.hpp"

namespace orchard {

// What works out the rules. All kinds follow the same rules; the first two draw the same games.
enum class Evaluation {
  automatic,    // the fastest there is for the game and the processor
  interpreter,  // many positions at once on any processor
  reference,    // position by position, straight from the rules; the games of random_walk
};

// How many random games to play, and from where.
struct PlayoutOptions {
  std::optional<std::uint64_t> games{};  // how many; until the budget ends if not set
  // The seed of all random choices.
  std::uint64_t seed = 1;
  std::uint64_t plies = 10'000;  // a longer game counts as unfinished
  // The number of threads to use.
  unsigned threads = 1;
  // The evaluator to use: the circuit, the reference evaluator, or whichever fits.
  Evaluation evaluation = Evaluation::automatic;
  std::optional<Position> from{};  // the game's start if not set
  Budget budget{};                 // `positions` counts the plies played
};

// The statistics of a number of random games.
struct PlayoutStatistics {
  std::uint64_t playouts = 0;    // games begun
  std::uint64_t plies = 0;       // played in all of them
  std::uint64_t unfinished = 0;  // reached the bound on plies
  std::uint64_t stuck = 0;       // some role had no legal move before the end
  // Seconds that the games took, by the clock.
  double seconds = 0;
  // Why playing ended.
  Ending ending = Ending::complete;
  std::map<std::uint64_t, std::uint64_t> lengths;  // plies of a finished game → games
  // For each role, the mean number of legal moves over the positions in which it is to move.
  std::vector<double> branching;
  // The values of each role at the end → games, in the order of Term.
  std::map<std::vector<std::vector<Term>>, std::uint64_t> outcomes;

  // Games that came to an end.
  std::uint64_t finished() const { return playouts - unfinished - stuck; }
  double mean_length() const;           // of finished games; 0 if there is none
  std::uint64_t median_length() const;  // the lower one of two
};

// Plays random games. Fails with `too-large` if the rules cost too much in some position.
Result<PlayoutStatistics> run_playouts(const Game& game, const PlayoutOptions& options = {});

// A position of a random game, as `random_walk` shows it.
struct WalkStep {
  // The number of the game, counted from 0.
  std::uint64_t game = 0;
  // How many joint moves were made.
  std::uint64_t ply = 0;
  // The position after the step.
  Position position;
  std::vector<std::vector<Term>> sees;  // by role: percepts on entering; empty at ply 0
  std::optional<JointMove> joint;       // leads on; none at the last position
  std::vector<Role> stuck;              // at the last position: roles without a legal move
  bool cut = false;                     // at the last position: the bound on plies was reached
};

// Which random game to walk through.
struct WalkOptions {
  std::uint64_t game = 0;  // which game of the seed
  // The seed of all random choices.
  std::uint64_t seed = 1;
  // The most plies of a game.
  std::uint64_t plies = 10'000;
  // The start of the game if not set.
  std::optional<Position> from{};
};

// Calls `visit` for every position; it returns false to leave. True if the game was played to
// where it goes on no more.
Result<bool> random_walk(const Game& game, const WalkOptions& options,
                         const std::function<bool(const WalkStep&)>& visit);

}  // namespace orchard
