// What another style of writing costs: every game of the corpus and some demo games, rewritten in
// each style of `tests/support/rewriting.hpp`, counted and played at random. Each figure is that of
// the rewritten game by that of the game as it stands, measured in turns in one run: the least of
// some rounds each. A line for each style, with the least, the middle and the largest ratio over
// the games.
//
//   bench_styles [ROUNDS]
#include <fmt/core.h>

#include <algorithm>
#include <cstdlib>

#include "orchard/orchard.hpp"
#include "support/files.hpp"
#include "support/rewriting.hpp"
#include "thread_seconds.hpp"

namespace orchard::bench {
namespace {

struct Cost {
  double count = 1e300;  // seconds
  double ply = 1e300;
  double operations = 0;  // of a ply of random play
};

void measure(const Game& game, Cost& cost) {
  double start = thread_seconds();
  const Census census = take_census(game).value();
  cost.count = std::min(cost.count, thread_seconds() - start);
  PlayoutOptions options;
  options.games = 20'000;
  start = thread_seconds();
  const PlayoutStatistics played = run_playouts(game, options).value();
  cost.ply = std::min(cost.ply, (thread_seconds() - start) / static_cast<double>(played.plies));
}

// The game with a circuit of its own; none if it has none, or is too large to be counted in turns.
std::optional<Game> subject(const std::string& text) {
  const auto game = Game::from_text(text);
  if (!game || !has_circuit(*game)) return std::nullopt;
  CensusOptions options;
  options.budget.positions = 100'000;
  const auto census = take_census(*game, options);
  if (!census || census->ending != Ending::complete) return std::nullopt;
  return *game;
}

std::string spread(std::vector<double> ratios) {
  std::ranges::sort(ratios);
  return fmt::format("{:5.2f} {:5.2f} {:5.2f}", ratios.front(), ratios[ratios.size() / 2],
                     ratios.back());
}

void run(const testing::Rewriting& style, const std::vector<std::string>& paths, int rounds) {
  std::vector<double> counts;
  std::vector<double> plies;
  std::vector<double> operations;
  for (const std::string& path : paths) {
    const std::string text = testing::read_file(path);
    const std::string rewritten = style.rewrite(text);
    if (rewritten.empty()) continue;
    const auto plain = subject(text);
    const auto other = plain ? subject(rewritten) : std::nullopt;
    if (!other) continue;
    Cost before;
    Cost after;
    for (int round = 0; round < rounds; ++round) {
      measure(*plain, before);
      measure(*other, after);
    }
    counts.push_back(after.count / before.count);
    plies.push_back(after.ply / before.ply);
    operations.push_back(static_cast<double>(circuit_statistics(*other).value().operations) /
                         static_cast<double>(circuit_statistics(*plain).value().operations));
  }
  if (counts.empty()) return;
  fmt::print("{:<17} {:>5}   {}   {}   {}\n", style.name, counts.size(), spread(counts),
             spread(plies), spread(operations));
}

}  // namespace
}  // namespace orchard::bench

int main(int argc, char** argv) {
  using namespace orchard;
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 5;
  std::vector<std::string> paths = testing::corpus_games();
  for (const char* name : {"snails", "sprinklers", "beeline", "market_day"}) {
    paths.push_back(testing::game_path(name));
  }
  fmt::print("ratios to the game as it stands: least, middle, largest; {} rounds\n\n", rounds);
  fmt::print("{:<17} {:>5}   {:<17}   {:<17}   {}\n", "", "games", "census", "a ply", "operations");
  for (const testing::Rewriting& style : testing::rewritings()) bench::run(style, paths, rounds);
}
