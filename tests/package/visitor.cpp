#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]).value();
  std::cout << orchard::take_census(game).value().positions << " positions\n";
}
