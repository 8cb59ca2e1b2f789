// How many games a table takes to learn best play, on games that can be solved.
//
// Prints a table: after so many games against a random opponent, from varied starts, the share of
// positions in which the table's preferred move keeps the value, over all positions in which the
// learner can go wrong (more than one move, not all of them best).
#include <fmt/core.h>

#include <algorithm>
#include <unordered_set>

#include "orchard/learn_values.hpp"
#include "orchard/solve.hpp"

#ifndef ORCHARD_GAMES_FOLDER
#error "ORCHARD_GAMES_FOLDER names the folder of the demo games"
#endif

namespace orchard {
namespace {

struct Subject {
  const char* name;
  const char* file;
  std::map<std::string, std::int64_t> sizes;
};

// Positions of the role in which it can go wrong, with the moves that are best there.
std::vector<std::pair<Position, std::vector<GoodMove>>> critical(const Game& game, const Role& role,
                                                                 const Solution& solution) {
  std::vector<std::pair<Position, std::vector<GoodMove>>> result;
  std::unordered_set<Position> seen{game.initial()};
  std::vector<Position> pending{game.initial()};
  while (!pending.empty()) {
    const Position position = pending.back();
    pending.pop_back();
    if (game.terminal(position)) continue;
    const std::vector<Move> own = game.legal(position, role);
    auto good = solution.best(position, role);
    if (own.size() > good.size() && !good.empty()) result.emplace_back(position, std::move(good));
    const Role mover = game.to_move(position).front();
    for (const Move& move : game.legal(position, mover)) {
      const auto joint = game.joint_move(position, mover, move);
      if (!joint) continue;
      const Position next = game.next(position, *joint).value();
      if (seen.insert(next).second) pending.push_back(next);
    }
  }
  return result;
}

template <class Table, class Worth>
double share_of_best(const std::vector<std::pair<Position, std::vector<GoodMove>>>& positions,
                     const Game& game, const Table& table, Worth&& worth) {
  std::size_t best = 0;
  for (const auto& [position, good] : positions) {
    const std::vector<Move> legal = game.legal(position, table.role());
    const Move chosen = *std::ranges::max_element(
        legal, {}, [&](const Move& move) { return worth(table, position, move); });
    best += std::ranges::find(good, chosen, &GoodMove::move) != good.end() ? 1 : 0;
  }
  return static_cast<double>(best) / static_cast<double>(positions.size());
}

template <class Table, class Worth>
void measure(const Subject& subject, const char* kind, const Game& game, Table table,
             const std::vector<std::pair<Position, std::vector<GoodMove>>>& positions,
             Worth&& worth) {
  fmt::print("| {} | {} | {} | {:.1f} % |", subject.name, kind, positions.size(),
             100 * share_of_best(positions, game, table, worth));
  std::uint64_t learnt = 0;
  for (const std::uint64_t games : {500u, 2000u, 8000u, 32000u}) {
    LearnOptions options;
    options.games = games - learnt;
    options.seed = 1 + learnt;
    options.random_plies = 10;
    if (!learn(game, table, options)) return;
    learnt = games;
    fmt::print(" {:.1f} % |", 100 * share_of_best(positions, game, table, worth));
  }
  fmt::print("\n");
}

void measure(const Subject& subject) {
  LoadOptions load;
  load.sizes = subject.sizes;
  const Game game =
      Game::load(std::string(ORCHARD_GAMES_FOLDER) + "/" + subject.file + ".gdl", load).value();
  const Role& role = game.roles().front();
  const Solution solution = solve(game).value();
  const auto positions = critical(game, role, solution);
  measure(subject, "tokens", game, TokenTable(game, role), positions,
          [](const TokenTable& table, const Position& position, const Move& move) {
            return static_cast<double>(table.tokens(position, move));
          });
  measure(subject, "values", game, ValueTable(game, role), positions,
          [](const ValueTable& table, const Position& position, const Move& move) {
            return table.value(position, move);
          });
}

}  // namespace
}  // namespace orchard

int main() {
  fmt::print("| game | table | positions | 0 games | 500 | 2000 | 8000 | 32000 |\n");
  fmt::print("| --- | --- | --- | --- | --- | --- | --- | --- |\n");
  for (const orchard::Subject& subject : {orchard::Subject{"snails 15", "snails", {}},
                                          {"espalier 3×3", "espalier_3x3", {}},
                                          {"silo 3×4", "silo", {{"heights", 3}, {"bins", 4}}}}) {
    orchard::measure(subject);
  }
  return 0;
}
