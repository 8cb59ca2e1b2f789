// The library's tree search against players written by hand for one game, both with the same time a
// move on one thread.
//
//   bench_duel [OPENINGS] [SECONDS a move] [OPPONENT] [silo|graft]
//
// Every opening (a few random plies, in which nobody has won) is played twice, seats changed. That
// their rules are those of the descriptions is tested (tests/opponents/baselines_test.cpp).
#include <fmt/core.h>

#include <cmath>
#include <cstdlib>
#include <memory>
#include <orchard/orchard.hpp>

#include "baselines/alpha_beta.hpp"
#include "baselines/graft_player.hpp"
#include "baselines/silo_player.hpp"

namespace {

using namespace orchard;
using namespace orchard::bench;

struct Account {
  std::uint64_t choices = 0;
  std::uint64_t depths = 0;
  std::uint64_t nodes = 0;
  double seconds = 0;
};

template <class State>
class HandWritten : public Opponent {
 public:
  HandWritten(double seconds, Account& account) : seconds_(seconds), account_(account) {}
  std::string name() const override { return "by hand"; }
  Move choose(const Situation& at) override {
    if (at.legal.size() == 1) return at.legal.front();
    SearchReport report;
    const int move = search_.choose(State::of(at.game, at.position, at.role), seconds_, report);
    ++account_.choices;
    account_.depths += static_cast<std::uint64_t>(report.depth);
    account_.nodes += report.nodes;
    account_.seconds += report.seconds;
    const std::string text = State::text_of(move);
    for (const Move& legal : at.legal) {
      if (legal.to_string() == text) return legal;
    }
    fmt::print(stderr, "by hand: {} is not legal\n", text);
    std::exit(3);
  }

 private:
  AlphaBeta<State, State::most_moves> search_;
  double seconds_;
  Account& account_;
};

template <class State>
void duel(const std::string& name, const Game& game, std::size_t openings, double seconds,
          const std::string& who) {
  Account account;
  double score = 0;
  double squares = 0;
  std::uint64_t won = 0, drawn = 0, lost = 0;
  for (std::size_t opening = 0; opening < openings; ++opening) {
    constexpr std::uint64_t plies = 4;
    WalkOptions walk;
    walk.game = opening;
    walk.seed = 77;
    Position start = game.initial();
    (void)random_walk(game, walk, [&](const WalkStep& step) {
      if (step.ply > plies || game.terminal(step.position)) return false;
      start = step.position;
      return true;
    });
    double of_opening = 0;
    for (std::size_t seat = 0; seat < 2; ++seat) {
      const auto engine = make_opponent(who, opening * 2 + seat + 1).value();
      HandWritten<State> by_hand(seconds, account);
      Match match(game, start);
      const Diagnostics faults =
          play_on(match, seat == 0 ? std::vector<Opponent*>{engine.get(), &by_hand}
                                   : std::vector<Opponent*>{&by_hand, engine.get()});
      if (!faults.empty()) {
        fmt::print(stderr, "{}", faults.render());
        std::exit(3);
      }
      const auto best = outcome_of(game, match.position()).best;
      const bool draw = best.size() != 1;
      const bool win = !draw && best.front().index() == seat;
      ++(draw ? drawn : win ? won : lost);
      of_opening += draw ? 0.5 : win ? 1 : 0;
    }
    score += of_opening / 2;
    squares += of_opening / 2 * of_opening / 2;
  }
  const auto count = static_cast<double>(openings);
  const double mean = score / count;
  const double error = std::sqrt(std::max(0.0, squares / count - mean * mean) / count);
  fmt::print("| {} | {} | {} | {} | {} | {:.1f} ± {:.1f} % | {:.1f} | {:.1f} |\n", name, who, won,
             drawn, lost, 100 * mean, 100 * error,
             static_cast<double>(account.depths) / static_cast<double>(account.choices),
             static_cast<double>(account.nodes) / account.seconds / 1e6);
  std::fflush(stdout);
}

Game load(const char* file) {
  auto game =
      Game::load(fmt::format("{}/{}.gdl", ORCHARD_GAMES_FOLDER, file),
                 std::string(file) == "silo" ? LoadOptions{.sizes = {{"heights", 6}, {"bins", 6}}}
                                             : LoadOptions{});
  if (!game) {
    fmt::print(stderr, "{}", game.diagnostics().render());
    std::exit(2);
  }
  return *game;
}

}  // namespace

int main(int argc, char** argv) {
  const std::size_t openings = argc > 1 ? std::strtoull(argv[1], nullptr, 10) : 20;
  const double seconds = argc > 2 ? std::strtod(argv[2], nullptr) : 1.0;
  const std::string who = argc > 3 ? argv[3] : fmt::format("playouts:{}s", seconds);
  fmt::print(
      "| game | opponent | won | drawn | lost | score | depth by hand | million nodes a second "
      "|\n| --- | --- | --- | --- | --- | --- | --- | --- |\n");
  const std::string only = argc > 4 ? argv[4] : "";
  if (only != "graft") {
    duel<SiloState<6, 6>>("silo 6×6", load("silo"), openings, seconds, who);
  }
  if (only != "silo") {
    duel<GraftState<6, 6>>("graft 6×6", load("graft"), openings, seconds, who);
  }
}
