// Ten thousand games at once, a random move in each, ply by ply: many_positions games/silo.gdl
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  auto batch = orchard::Batch::make(*game);
  if (!batch) {
    std::cerr << batch.diagnostics().render();
    return 2;
  }
  const std::vector<orchard::Position> start(10'000, game->initial());
  if (const auto faults = batch->assign(start); !faults.empty()) return 2;
  orchard::Random random(1);
  for (std::size_t ply = 0, going_on = batch->size(); going_on > 0; ++ply) {
    std::vector<orchard::JointMove> joints(batch->size());
    going_on = 0;
    for (std::size_t at = 0; at < batch->size(); ++at) {
      if (batch->terminal(at)) continue;
      ++going_on;
      for (const orchard::Role& role : game->roles()) {
        const auto legal = batch->legal(at, role);
        joints[at].add(legal[random.below(legal.size())]);
      }
    }
    std::cout << "ply " << ply << ": " << going_on << " games go on\n";
    if (const auto faults = batch->advance(joints); !faults.empty()) {
      std::cerr << faults.render();
      return 2;
    }
  }
}
