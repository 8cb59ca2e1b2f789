// Every legal move of a position: legal_moves games/espalier.gdl
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  const orchard::Position& start = game->initial();
  std::cout << orchard::Picture(*game).text({start});
  for (const orchard::Role& role : game->to_move(start)) {
    for (const orchard::Move& move : game->legal(start, role)) {
      std::cout << role << " may play " << move << '\n';
    }
  }
}
