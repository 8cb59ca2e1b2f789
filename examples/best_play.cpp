// The value of a game under best play, and a line of it: best_play games/snails.gdl
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  orchard::SolveOptions options;
  options.budget.positions = 1'000'000;
  const auto solution = orchard::solve(*game, options);
  if (!solution) {
    std::cerr << solution.diagnostics().render();
    return 2;
  }
  if (!solution->complete()) {
    std::cout << "not solved: " << solution->reason() << '\n';
    return 3;
  }
  for (const orchard::Role& role : game->roles()) {
    if (role.is_chance()) continue;
    std::cout << role << ": " << *solution->value(game->initial(), role) << ", best now:";
    for (const orchard::GoodMove& good : solution->best(game->initial(), role)) {
      std::cout << ' ' << good.move;
    }
    std::cout << '\n';
  }
  std::cout << "over after " << solution->line().joints.size() << " plies of best play\n";
}
