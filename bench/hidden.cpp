// How well opponents play where not everything is seen: hidden information, and moves at once.
//
//   bench_hidden [MATCHES]
//
// Games with hidden information: tree search against `careful`, by mean goals where one role plays,
// by matches with seats changing where two do. market_day: what the best answer to the moves that
// tree search makes, drawn many times over, gains over the value of the game. Prints tables in the
// form of docs/STRENGTH.md.
#include <fmt/core.h>

#include <cmath>
#include <cstdlib>
#include <map>
#include <orchard/orchard.hpp>

namespace {

using namespace orchard;

constexpr const char* searching = "playouts:10000";

Game load(const std::string& file, std::map<std::string, std::int64_t> sizes) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  auto game = Game::load(fmt::format("{}/{}.gdl", ORCHARD_GAMES_FOLDER, file), options);
  if (!game) {
    fmt::print(stderr, "{}", game.diagnostics().render());
    std::exit(2);
  }
  return *game;
}

SeriesResult series(const Game& game, const std::vector<std::string>& who, std::uint64_t games) {
  SeriesOptions options;
  options.games = games;
  options.threads = 2;
  for (const std::string& name : who) options.players.push_back({name, name});
  auto result = run_series(game, options);
  if (!result) {
    fmt::print(stderr, "{}", result.diagnostics().render());
    std::exit(2);
  }
  return *result;
}

// Standard errors between two shares of 0 or 100 out of as many games.
double apart(double a, double b, double games) {
  const double error = std::sqrt((a * (100 - a) + b * (100 - b)) / games);
  return error > 0 ? (b - a) / error : 0;
}

void alone(const std::string& name, const Game& game, std::uint64_t games) {
  std::map<std::string, double> goals;
  for (const char* who : {"random", "careful", searching}) {
    const SeriesResult result = series(game, {who}, games);
    goals[who] = result.by_player[0].goals / static_cast<double>(result.games);
  }
  fmt::print("| {} | {} | {:.1f} | {:.1f} | {:.1f} | {:.1f} |\n", name, games, goals["random"],
             goals["careful"], goals[searching],
             apart(goals["careful"], goals[searching], static_cast<double>(games)));
  std::fflush(stdout);
}

void matches(const std::string& name, const Game& game, std::uint64_t games) {
  const SeriesResult result = series(game, {searching, "careful"}, games);
  const SeriesTally& own = result.by_player[0];
  const double score = static_cast<double>(own.wins) + 0.5 * static_cast<double>(own.draws);
  const Share share = wilson(score, static_cast<double>(result.games));
  fmt::print("| {} | {} | {} | {} | {} | {:.1f} % ({:.1f} to {:.1f}) |\n", name, result.games,
             own.wins, own.draws, own.losses, 100 * share.share, 100 * share.least,
             100 * share.most);
  std::fflush(stdout);
}

// The most that an answer to the drawn moves gains for the other, in goal points.
void exploited(std::int64_t days, std::size_t draws) {
  const Game game = load("market_day", {{"days", days}});
  const Solution solution = solve(game).value();
  const Position& start = game.initial();
  for (const Role& role : game.roles()) {
    const std::vector<Move> legal = game.legal(start, role);
    std::map<std::string, double> mix;
    for (std::size_t i = 0; i < draws; ++i) {
      Match match(game);
      const auto opponent = make_opponent(searching, i + 1).value();
      mix[opponent->choose(match.situation(role, legal)).to_string()] +=
          1.0 / static_cast<double>(draws);
    }
    const Role& other = game.roles()[1 - role.index()];
    double most = 0;
    for (const Move& answer : game.legal(start, other)) {
      double gets = 0;
      for (const Move& own : legal) {
        std::vector<Move> moves(2, answer);
        moves[role.index()] = own;
        const Position next = game.next(start, JointMove(moves)).value();
        gets += mix[own.to_string()] * *solution.value(next, other);
      }
      most = std::max(most, gets);
    }
    std::string shares;
    for (const Move& own : legal) {
      shares += fmt::format("{}{} {:.0f} %", shares.empty() ? "" : ", ", own.to_string(),
                            100 * mix[own.to_string()]);
    }
    std::string best;
    for (const GoodMove& good : solution.best(start, role)) {
      best += fmt::format("{}{} {:.0f} %", best.empty() ? "" : ", ", good.move.to_string(),
                          100 * good.share);
    }
    fmt::print("| {} | {} | {} | {} | {:.2f} |\n", days, role.name(), shares, best,
               most - *solution.value(start, other));
    std::fflush(stdout);
  }
}

}  // namespace

int main(int argc, char** argv) {
  const std::uint64_t games = argc > 1 ? std::strtoull(argv[1], nullptr, 10) : 200;
  fmt::print(
      "| days | role | moves of {} | best play | lost to the best answer |\n"
      "| --- | --- | --- | --- | --- |\n",
      searching);
  for (const std::int64_t days : {1, 2, 3}) exploited(days, 2 * games);
  fmt::print(
      "\n| game | matches | won | drawn | lost | score of {} against careful |\n"
      "| --- | --- | --- | --- | --- | --- |\n",
      searching);
  matches("hedgerow, set of 3", load("hedgerow", {}), 2 * games);
  matches("hedgerow, set of 5", load("hedgerow", {{"months", 5}, {"each", 5}}), games);
  fmt::print(
      "\n| game | matches | random | careful | {} | standard errors apart |\n"
      "| --- | --- | --- | --- | --- | --- |\n",
      searching);
  alone("cellar, 4 jars of 5", load("cellar", {}), games);
  alone("moles 4×4", load("moles", {}), games);
}
