// What asking saves the reference evaluator: random play of a game with every relation worked out
// as a whole, and as the program chose (`logic/program.hpp`), in turns in one run. The same games
// both ways; the least of some rounds of a second or less each.
//
//   bench_evaluator [ROUNDS [FILE ...]]      without files: the demo games
#include <fmt/core.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>

#include "logic/evaluator.hpp"
#include "orchard/random.hpp"
#include "thread_seconds.hpp"

namespace orchard::bench {
namespace {

using logic::Evaluator;
using logic::Program;
using rules::TermId;

// Plays random plies, from the start again where play ends. The seconds a ply took.
double seconds_a_ply(Evaluator& evaluator, int plies) {
  Random random(1);
  std::vector<TermId> fluents = evaluator.program().initial();
  const double start = thread_seconds();
  for (int ply = 0; ply < plies; ++ply) {
    evaluator.set_position(fluents);
    std::vector<TermId> joint;
    if (!evaluator.terminal()) {
      for (const std::vector<TermId>& moves : evaluator.legal()) {
        if (!moves.empty()) joint.push_back(moves[random.below(moves.size())]);
      }
    }
    if (joint.size() < evaluator.program().description().roles().size()) {
      evaluator.goals();
      fluents = evaluator.program().initial();
      continue;
    }
    evaluator.set_joint_move(joint);
    fluents = evaluator.next();
  }
  return (thread_seconds() - start) / plies;
}

void run(const std::string& path, int rounds) {
  Diagnostics diagnostics;
  const auto source = syntax::Source::from_file(path).value();
  const std::shared_ptr<const rules::Description> description =
      rules::Description::build(source, {}, diagnostics);
  if (description == nullptr) return fmt::print("{}: does not read\n", path);
  const auto make = [&](Program::Answering answering) {
    return Program::make(description, {}, answering).value();
  };
  Evaluator whole(make(Program::Answering::as_a_whole));
  const double start = thread_seconds();
  Evaluator chosen(make(Program::Answering::as_counted));
  const double prepared = thread_seconds() - start;
  const double first = seconds_a_ply(whole, 2);
  const int plies = std::clamp(static_cast<int>(0.5 / first), 4, 2000);
  double of_whole = 1e300;
  double of_chosen = 1e300;
  for (int round = 0; round < rounds; ++round) {
    of_whole = std::min(of_whole, seconds_a_ply(whole, plies));
    of_chosen = std::min(of_chosen, seconds_a_ply(chosen, plies));
  }
  fmt::print("{:<18} {:>10.1f} {:>10.1f} {:>7.1f}× {:>10.0f} {:>8.1f}\n",
             std::filesystem::path(path).stem().string(), 1e6 * of_whole, 1e6 * of_chosen,
             of_whole / of_chosen, 1 / of_chosen, 1e3 * prepared);
}

}  // namespace
}  // namespace orchard::bench

int main(int argc, char** argv) {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 5;
  std::vector<std::string> paths(argv + std::min(argc, 2), argv + argc);
  if (paths.empty()) {
    for (const auto& file : std::filesystem::directory_iterator(ORCHARD_GAMES_FOLDER)) {
      if (file.path().extension() == ".gdl") paths.push_back(file.path().string());
    }
    std::ranges::sort(paths);
  }
  fmt::print("microseconds a ply of random play by the evaluator; least of {} rounds\n\n", rounds);
  fmt::print("{:<18} {:>10} {:>10} {:>8} {:>10} {:>8}\n", "", "as a whole", "as chosen", "",
             "plies a s", "ready ms");
  for (const std::string& path : paths) orchard::bench::run(path, rounds);
}
