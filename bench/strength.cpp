// How well opponents play where the truth is known: the share of best moves, and what is lost.
//
//   bench_strength [POSITIONS a game] [GAME, only those with this in their name]
//
// Games are solved; positions are drawn from random play in which the role to move can go wrong;
// each opponent chooses in each. A loss is the value given away, in goal points; what a rung loses
// less than the rung below it is taken position by position. Prints a table in the form of
// docs/STRENGTH.md, with standard errors.
#include <fmt/core.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <map>
#include <orchard/orchard.hpp>
#include <unordered_set>

namespace {

using namespace orchard;

struct Sample {
  Position position;
  Role role;
  double value = 0;
  std::map<std::string, double> after;  // value for the role, by move
};

// Positions where one role chooses and not every move is as good as the best.
std::vector<Sample> samples_of(const Game& game, const Solution& solution, std::size_t wanted) {
  std::vector<Sample> samples;
  std::unordered_set<Position> met;
  for (std::uint64_t number = 0; number < 20'000 && samples.size() < wanted; ++number) {
    WalkOptions options;
    options.game = number;
    options.seed = 11;
    std::vector<Sample> here;
    (void)random_walk(game, options, [&](const WalkStep& step) {
      if (game.terminal(step.position) || met.contains(step.position)) return true;
      const std::vector<Role> to_move = game.to_move(step.position);
      if (to_move.size() != 1 || to_move.front().is_chance()) return true;
      Sample sample{step.position, to_move.front(), 0, {}};
      sample.value = *solution.value(step.position, sample.role);
      bool can_err = false;
      for (const Move& move : game.legal(step.position, sample.role)) {
        const auto joint = game.joint_move(step.position, sample.role, move);
        if (!joint) return true;
        const auto next = game.next(step.position, *joint);
        const double after = *solution.value(*next, sample.role);
        sample.after[move.to_string()] = after;
        can_err = can_err || after < sample.value - 1e-6;
      }
      if (can_err) here.push_back(std::move(sample));
      return true;
    });
    // One of a game, so that samples depend little on each other.
    if (here.empty()) continue;
    Random random(number);
    Sample& chosen = here[random.below(here.size())];
    if (met.insert(chosen.position).second) samples.push_back(std::move(chosen));
  }
  return samples;
}

struct Mean {
  double mean = 0;
  double error = 0;  // standard
};
Mean mean_of(const std::vector<double>& numbers) {
  double sum = 0;
  double squares = 0;
  for (const double number : numbers) {
    sum += number;
    squares += number * number;
  }
  const auto count = static_cast<double>(numbers.size());
  const double mean = sum / count;
  return {mean, std::sqrt(std::max(0.0, squares / count - mean * mean) / count)};
}

void measure(const std::string& name, const Game& game, std::size_t wanted) {
  SolveOptions options;
  options.budget.positions = 20'000'000;
  const auto solution = solve(game, options);
  if (!solution || !solution->complete()) {
    fmt::print("| {} | – | not solved | | | | |\n", name);
    return;
  }
  const std::vector<Sample> samples = samples_of(game, *solution, wanted);
  if (samples.empty()) {
    fmt::print("| {} | – | nobody can go wrong | | | | |\n", name);
    return;
  }
  const struct {
    const char* who;
    bool rung;  // of the ladder, as it is without numbers
  } opponents[] = {{"random", true},      {"greedy", true},         {"careful", true},
                   {"lookahead:3", true}, {"playouts:1000", false}, {"playouts:10000", true},
                   {"perfect", true}};
  std::vector<double> below;
  for (const auto& [who, rung] : opponents) {
    std::size_t best = 0;
    std::vector<double> losses;
    const auto begun = std::chrono::steady_clock::now();
    for (std::size_t i = 0; i < samples.size(); ++i) {
      const Sample& sample = samples[i];
      Match match(game, sample.position);
      const auto opponent = make_opponent(who, i).value();
      const std::vector<Move> legal = game.legal(sample.position, sample.role);
      const Move move = opponent->choose(match.situation(sample.role, legal));
      losses.push_back(sample.value - sample.after.at(move.to_string()));
      best += losses.back() < 1e-6 ? 1 : 0;
    }
    const std::chrono::duration<double> spent = std::chrono::steady_clock::now() - begun;
    const auto count = static_cast<double>(samples.size());
    std::string less = "";
    if (rung && !below.empty()) {
      std::vector<double> differences;
      for (std::size_t i = 0; i < losses.size(); ++i) differences.push_back(below[i] - losses[i]);
      const auto [mean, error] = mean_of(differences);
      less = fmt::format("{:.2f} ± {:.2f}", mean, error);
      if (mean > 1.96 * error) less += " *";
      if (-mean > 1.96 * error) less += " worse";
    }
    const auto [mean, error] = mean_of(losses);
    fmt::print("| {} | {} | {} | {:.1f} % | {:.2f} ± {:.2f} | {} | {:.1f} |\n", name, who,
               samples.size(), 100 * static_cast<double>(best) / count, mean, error, less,
               1000 * spent.count() / count);
    std::fflush(stdout);
    if (rung) below = losses;
  }
}

}  // namespace

int main(int argc, char** argv) {
  const std::size_t wanted = argc > 1 ? std::strtoull(argv[1], nullptr, 10) : 300;
  const struct {
    const char* name;
    const char* file;
    std::map<std::string, std::int64_t> sizes;
  } games[] = {
      {"espalier 3×4", "espalier", {{"rows", 3}, {"columns", 4}}},
      {"espalier 3×5", "espalier", {{"rows", 3}, {"columns", 5}}},
      {"espalier 4×4", "espalier", {{"rows", 4}, {"columns", 4}}},
      {"silo 4×4", "silo", {{"heights", 4}, {"bins", 4}}},
      {"silo 4×5", "silo", {{"heights", 4}, {"bins", 5}}},
      {"graft 4×3", "graft", {{"rows", 4}, {"columns", 3}}},
      {"snails 30", "snails", {{"wall", 30}}},
      {"snails 60", "snails", {{"wall", 60}}},
      {"snails 100", "snails", {{"wall", 100}}},
      {"barrow lane, 2 rounds", "barrow_lane", {{"rounds", 2}}},
      {"barrow lane, 3 rounds", "barrow_lane", {{"rounds", 3}}},
      {"sprinklers 3×3", "sprinklers", {}},
  };
  fmt::print(
      "| game | opponent | positions | best moves | points lost a move | less than the rung below "
      "| "
      "ms a move |\n| --- | --- | --- | --- | --- | --- | --- |\n");
  const std::string only = argc > 2 ? argv[2] : "";
  for (const auto& [name, file, sizes] : games) {
    if (std::string(name).find(only) == std::string::npos) continue;
    LoadOptions options;
    options.sizes = sizes;
    const auto game = Game::load(fmt::format("games/{}.gdl", file), options);
    if (!game) {
      fmt::print(stderr, "{}", game.diagnostics().render());
      return 2;
    }
    measure(name, *game, wanted);
  }
}
