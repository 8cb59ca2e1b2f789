// A search of one's own at the speed of the circuit: tree_search games/espalier.gdl
//
// Of the moves of whoever begins, the one after which random games go best: a thousand games for
// each, all of them played side by side.
#include <algorithm>
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  auto tree = orchard::PositionTree::make(*game);
  if (!tree) {
    std::cerr << tree.diagnostics().render();
    return 2;
  }
  const orchard::Role role = game->to_move(game->initial()).front();
  const auto start = tree->row(game->initial()).value();
  orchard::Random random(1);
  constexpr std::size_t games = 1000;
  struct Judged {
    orchard::Move move;
    double share;
  };
  std::vector<Judged> judged;
  for (const auto& child : tree->children(start)) {
    const orchard::Move move = tree->move(role, child.joint[role.index()]);
    double sum = 0;
    const std::vector<orchard::PositionTree::Row> rows(games, child.row);
    const std::vector<float> shares = tree->play(rows, random);
    for (std::size_t g = 0; g < games; ++g) sum += shares[g * game->roles().size() + role.index()];
    judged.push_back({move, sum / games});
  }
  std::ranges::sort(judged, std::greater(), &Judged::share);
  for (const Judged& one : judged) std::cout << one.move << ": " << 100 * one.share << '\n';
}
