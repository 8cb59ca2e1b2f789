// Random playouts: the engine against hand-written programs of the same games and against the
// reference evaluator, interleaved in one run on one core, in processor time of the thread.
//
//   bench_playouts [ROUNDS]
//
// Every line checks that both play the same game: outcome shares within five standard errors, mean
// lengths within one in a hundred. The ratio is how many times as many plies the engine plays.
#include <fmt/core.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdlib>
#include <functional>

#include "baselines/bits.hpp"
#include "baselines/espalier.hpp"
#include "baselines/graft.hpp"
#include "baselines/silo.hpp"
#include "orchard/orchard.hpp"
#include "thread_seconds.hpp"

namespace orchard::bench {
namespace {

struct Rate {
  std::vector<double> nanoseconds;  // a ply, by round
  Tally tally;
  void add(double seconds, const Tally& played) {
    nanoseconds.push_back(1e9 * seconds / static_cast<double>(played.plies));
    tally.games += played.games;
    tally.plies += played.plies;
    tally.first_wins += played.first_wins;
    tally.second_wins += played.second_wins;
  }
};

double median(std::vector<double> numbers) {
  std::ranges::sort(numbers);
  return numbers[numbers.size() / 2];
}

// Round by round, so that a machine that is slower for a while slows both sides of a ratio.
double median_ratio(const std::vector<double>& of, const std::vector<double>& by) {
  std::vector<double> ratios;
  for (std::size_t i = 0; i < of.size(); ++i) ratios.push_back(of[i] / by[i]);
  return median(std::move(ratios));
}

using Program = std::function<void(std::uint64_t games, FastRandom&, Tally&)>;

struct Subject {
  const char* name;
  const char* file;
  std::map<std::string, std::int64_t> sizes;
  std::vector<Program> by_hand;  // variants
};

Tally tally_of(const PlayoutStatistics& statistics) {
  Tally tally{statistics.playouts, statistics.plies, 0, 0};
  for (const auto& [values, count] : statistics.outcomes) {
    if (values[0] == std::vector<Term>{Term::constant("100")}) tally.first_wins += count;
    if (values[1] == std::vector<Term>{Term::constant("100")}) tally.second_wins += count;
  }
  return tally;
}

bool agree(const Tally& a, const Tally& b) {
  const auto share = [](std::uint64_t part, const Tally& of) {
    return static_cast<double>(part) / static_cast<double>(of.games);
  };
  const auto close = [&](std::uint64_t x, std::uint64_t y) {
    const double p = share(x, a);
    const double error = std::sqrt(p * (1 - p) / static_cast<double>(a.games) +
                                   p * (1 - p) / static_cast<double>(b.games));
    return std::abs(p - share(y, b)) < 5 * error + 1e-6;
  };
  const double ratio = share(a.plies, a) / share(b.plies, b);
  return close(a.first_wins, b.first_wins) && close(a.second_wins, b.second_wins) &&
         std::abs(ratio - 1) < 0.01;
}

void run(const Subject& subject, int rounds) {
  LoadOptions load;
  load.sizes = subject.sizes;
  const double before = thread_seconds();
  const Game game = Game::load(subject.file, load).value();
  PlayoutOptions options;
  options.games = 1;
  (void)run_playouts(game, options).value();  // makes all that playing needs
  const double loaded = thread_seconds() - before;
  const CircuitStatistics circuit = circuit_statistics(game).value();
  Rate engine;
  Rate reference;
  std::vector<Rate> by_hand(subject.by_hand.size());
  FastRandom random(7);
  const auto play = [&](Rate& rate) {
    ++options.seed;
    const double start = thread_seconds();
    const PlayoutStatistics statistics = run_playouts(game, options).value();
    rate.add(thread_seconds() - start, tally_of(statistics));
  };
  // So many games that a round of the engine takes some fifty milliseconds.
  options.games = 1u << 14;
  const double begun = thread_seconds();
  (void)run_playouts(game, options).value();
  const double once = thread_seconds() - begun;
  const std::uint64_t games = *options.games
                              << std::bit_width(static_cast<std::uint64_t>(0.05 / once));
  for (int round = 0; round < rounds; ++round) {
    options.games = games;
    options.evaluation = Evaluation::automatic;
    play(engine);
    for (std::size_t v = 0; v < by_hand.size(); ++v) {
      Tally tally;
      const double start = thread_seconds();
      subject.by_hand[v](200'000, random, tally);
      by_hand[v].add(thread_seconds() - start, tally);
    }
    options.games = by_hand.empty() ? 4 : 30;
    options.evaluation = Evaluation::reference;
    play(reference);
  }
  const Rate* best = nullptr;
  bool same = true;
  for (const Rate& rate : by_hand) {
    if (best == nullptr || median(rate.nanoseconds) < median(best->nanoseconds)) best = &rate;
    same = same && agree(engine.tally, rate.tally);
  }
  const std::string by_hand_text =
      best == nullptr ? "–" : fmt::format("{:.2f}", median(best->nanoseconds));
  const std::string ratio_text =
      best == nullptr ? "–"
                      : fmt::format("{:.1f}×", median_ratio(best->nanoseconds, engine.nanoseconds));
  fmt::print("{:<14} {:>7.2f} {:>9} {:>9} {:>11.0f} {:>9.0f}×  {:>6} {:>7} {:>8.0f}  {}\n",
             subject.name, median(engine.nanoseconds), by_hand_text, ratio_text,
             median(reference.nanoseconds), median_ratio(reference.nanoseconds, engine.nanoseconds),
             circuit.gates, circuit.operations, loaded * 1e3,
             by_hand.empty() ? "–"
             : same          ? "same"
                             : "DIFFERENT");
}

template <template <int, int, class> class Game, int rows, int columns>
std::vector<Program> variants() {
  return {Game<rows, columns, BitByDeposit>::play, Game<rows, columns, BitByClearing>::play};
}

int main_body(int rounds) {
  fmt::print("nanoseconds of one core a ply; {} rounds, medians\n\n", rounds);
  fmt::print("{:<14} {:>7} {:>9} {:>9} {:>11} {:>10}  {:>6} {:>7} {:>8}  {}\n", "game", "engine",
             "by hand", "ratio", "reference", "ratio", "gates", "a ply", "load ms", "outcomes");
  const std::string games = ORCHARD_GAMES_FOLDER;
  const std::string espalier = games + "/espalier.gdl";
  const std::string silo = games + "/silo.gdl";
  const std::string graft = games + "/graft.gdl";
  const std::string skep = games + "/skep.gdl";
  const std::vector<Subject> subjects = {
      {"espalier 3×3", espalier.c_str(), {{"rows", 3}, {"columns", 3}}, variants<Espalier, 3, 3>()},
      {"espalier 4×5", espalier.c_str(), {}, variants<Espalier, 4, 5>()},
      {"espalier 6×6", espalier.c_str(), {{"rows", 6}, {"columns", 6}}, variants<Espalier, 6, 6>()},
      {"silo 4×4", silo.c_str(), {{"heights", 4}, {"bins", 4}}, variants<Silo, 4, 4>()},
      {"silo 5×5", silo.c_str(), {}, variants<Silo, 5, 5>()},
      {"silo 8×7", silo.c_str(), {{"heights", 8}, {"bins", 7}}, variants<Silo, 8, 7>()},
      {"graft 6×6", graft.c_str(), {}, variants<Graft, 6, 6>()},
      {"graft 8×8", graft.c_str(), {{"rows", 8}, {"columns", 8}}, variants<Graft, 8, 8>()},
      {"skep 5×5", skep.c_str(), {{"rows", 5}, {"columns", 5}}, {}},
      {"skep 8×8", skep.c_str(), {}, {}},
  };
  for (const Subject& subject : subjects) run(subject, rounds);
  return 0;
}

}  // namespace
}  // namespace orchard::bench

int main(int argc, char** argv) {
  return orchard::bench::main_body(argc > 1 ? std::atoi(argv[1]) : 7);
}
