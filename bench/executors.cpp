// What runs a lane program, side by side: the kinds of machine code and the interpreter, on random
// play of the same games, interleaved in one run, in processor time of the thread.
//
//   bench_executors [ROUNDS]
//
// The last two columns are the growth of one description over its sizes: gates of a ply, and what a
// gate costs in one lane.
#include <fmt/core.h>

#include <algorithm>
#include <cstdlib>

#include "circuit/programs/lane_player.hpp"
#include "game/core.hpp"
#include "game/lane_game.hpp"
#include "orchard/orchard.hpp"
#include "thread_seconds.hpp"

namespace orchard::bench {
namespace {

using circuit::Executor;

struct Subject {
  const char* name;
  std::string file;
  std::map<std::string, std::int64_t> sizes;
  std::uint64_t games;  // a round
};

void run(const Subject& subject, int rounds) {
  LoadOptions load;
  load.sizes = subject.sizes;
  const Game game = Game::load(subject.file, load).value();
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const std::vector<bool> initial = lanes.ground().initial();
  std::vector<LaneGame::Ready> ready;
  std::vector<std::vector<double>> nanoseconds;
  for (const Executor::Kind kind : circuit::all_executor_kinds) {
    auto made = lanes.ready(initial, true, kind);
    if (!made.executor) continue;
    ready.push_back(std::move(made));
    nanoseconds.emplace_back();
  }
  for (int round = 0; round < rounds; ++round) {
    for (std::size_t e = 0; e < ready.size(); ++e) {
      circuit::LanePlayer player(ready[e].program, *ready[e].executor, initial);
      const double start = thread_seconds();
      const auto played = player.play(subject.games, static_cast<std::uint64_t>(round), 0, 10'000);
      nanoseconds[e].push_back(1e9 * (thread_seconds() - start) /
                               static_cast<double>(played.plies));
    }
  }
  fmt::print("{:<14} {:>7}", subject.name, ready.front().program.program.operations.size());
  double fastest = 0;
  for (std::size_t e = 0; e < ready.size(); ++e) {
    std::ranges::sort(nanoseconds[e]);
    fastest = nanoseconds[e][nanoseconds[e].size() / 2];
    fmt::print("  {:>11} {:>8.2f}", circuit::name_of(ready[e].executor->kind()), fastest);
  }
  for (std::size_t e = 0; e + 1 < ready.size(); ++e) {
    const double median = nanoseconds[e][nanoseconds[e].size() / 2];
    fmt::print("  {:>5.2f}", fastest / median);
  }
  fmt::print("\n");
}

int main_body(int rounds) {
  fmt::print("nanoseconds of one core a ply, and rates as shares of the last one's; {} rounds\n\n",
             rounds);
  const std::string games = ORCHARD_GAMES_FOLDER;
  const auto square = [](const char* rows, const char* columns, int size) {
    return std::map<std::string, std::int64_t>{{rows, size}, {columns, size}};
  };
  for (const Subject& subject : std::vector<Subject>{
           {"espalier 3×3", games + "/espalier.gdl", square("rows", "columns", 3), 1u << 17},
           {"silo 5×5", games + "/silo.gdl", {}, 1u << 16},
           {"graft 4×4", games + "/graft.gdl", square("rows", "columns", 4), 1u << 15},
           {"graft 6×6", games + "/graft.gdl", square("rows", "columns", 6), 1u << 14},
           {"graft 8×8", games + "/graft.gdl", square("rows", "columns", 8), 1u << 13},
           {"graft 10×10", games + "/graft.gdl", square("rows", "columns", 10), 1u << 12},
           {"skep 5×5", games + "/skep.gdl", square("rows", "columns", 5), 1u << 13},
           {"skep 8×8", games + "/skep.gdl", {}, 1u << 12}}) {
    run(subject, rounds);
  }
  return 0;
}

}  // namespace
}  // namespace orchard::bench

int main(int count, char** arguments) {
  return orchard::bench::main_body(count > 1 ? std::atoi(arguments[1]) : 5);
}
