// How the making of a circuit grows with a description: five sizes of three descriptions, pass by
// pass, in microseconds for a thousand of what the pass works on. Where the figures of a column
// stay alike from size to size, the pass is linear.
//
//   bench_growth [ROUNDS]
#include <fmt/core.h>

#include <algorithm>
#include <cstdlib>

#include "orchard/orchard.hpp"

namespace orchard::bench {
namespace {

// The least of some rounds: what disturbs a measurement only makes it longer.
CircuitStatistics least(const Game& game, int rounds) {
  CircuitStatistics result = circuit_statistics(game).value();
  for (int round = 1; round < rounds; ++round) {
    const CircuitStatistics again = circuit_statistics(game).value();
    result.ground_seconds = std::min(result.ground_seconds, again.ground_seconds);
    result.network_seconds = std::min(result.network_seconds, again.network_seconds);
    result.mapping_seconds = std::min(result.mapping_seconds, again.mapping_seconds);
    result.code_seconds = std::min(result.code_seconds, again.code_seconds);
  }
  return result;
}

void run(const char* name, std::vector<std::int64_t> sizes, int rounds) {
  for (const std::int64_t size : sizes) {
    LoadOptions load;
    load.sizes = {{"rows", size}, {"columns", size}};
    load.circuit_seconds = 600;
    const std::string file = std::string(ORCHARD_GAMES_FOLDER) + "/" + name + ".gdl";
    const CircuitStatistics made = least(Game::load(file, load).value(), rounds);
    const auto a_thousand = [](double seconds, std::size_t things) {
      return 1e9 * seconds / static_cast<double>(things);
    };
    fmt::print(
        "{:<13} {}×{} {:>9} {:>6.0f} {:>6.0f} {:>8} {:>6.0f} {:>8} {:>6.0f} {:>8.2f}\n", name, size,
        size, made.clauses, a_thousand(made.ground_seconds, made.clauses),
        a_thousand(made.network_seconds, made.clauses), made.play_pairs,
        a_thousand(made.mapping_seconds, made.play_pairs), made.operations,
        a_thousand(made.code_seconds, made.operations),
        made.ground_seconds + made.network_seconds + made.mapping_seconds + made.code_seconds);
  }
}

}  // namespace
}  // namespace orchard::bench

int main(int argc, char** argv) {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 3;
  fmt::print("microseconds for a thousand; least of {} rounds\n\n", rounds);
  fmt::print("{:<17} {:>9} {:>6} {:>6} {:>8} {:>6} {:>8} {:>6} {:>8}\n", "", "clauses", "rules",
             "gates", "pairs", "map", "steps", "code", "s in all");
  orchard::bench::run("terrace", {4, 5, 6, 7, 8}, rounds);
  orchard::bench::run("terrace_rays", {4, 5, 6, 7, 8}, rounds);
  orchard::bench::run("stakes", {4, 5, 6, 7, 8}, rounds);
}
