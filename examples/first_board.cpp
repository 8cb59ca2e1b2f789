// The start of a game, drawn, with the numbers of its legal moves: first_board games/espalier.gdl
#include <iostream>
#include <orchard/game.hpp>
#include <orchard/picture.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  orchard::PictureFrame frame{game->initial()};
  for (const orchard::Role& role : game->to_move(frame.position)) {
    for (const orchard::Move& move : game->legal(frame.position, role)) {
      frame.moves.push_back({role, move, frame.moves.size() + 1});
    }
  }
  // NAME.draw beside NAME.gdl says what the board looks like; without it that is inferred.
  std::string rules = argv[1];
  rules.replace(rules.rfind('.'), std::string::npos, ".draw");
  const auto drawn = orchard::Picture::load(*game, rules);
  std::cout << (drawn ? *drawn : orchard::Picture(*game)).text(frame);
}
