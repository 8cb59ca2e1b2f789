// A thousand random games and who won them: random_games games/espalier.gdl
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  orchard::PlayoutOptions options;
  options.games = 1000;
  const auto result = orchard::run_playouts(*game, options).value();
  for (const auto& [values, count] : result.outcomes) {
    for (const auto& role : game->roles()) {
      std::cout << role << ' ' << values[role.index()].front() << "  ";
    }
    std::cout << 100.0 * static_cast<double>(count) / 1000 << " %\n";
  }
}
