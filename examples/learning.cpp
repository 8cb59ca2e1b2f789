// A table that learns from its own games, and then plays: learning games/snails.gdl
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  orchard::TokenTable table(*game, game->roles().front());
  orchard::LearnOptions options;
  options.games = 2000;
  const auto curve = orchard::learn(*game, table, options);
  if (!curve) {
    std::cerr << curve.diagnostics().render();
    return 2;
  }
  std::cout << table.role() << " met " << table.entries().size() << " positions in "
            << table.games() << " games\n";
  const std::string kept = table.to_json();  // what a file would hold
  orchard::SeriesOptions series;
  series.games = 200;
  series.fixed_seats = true;
  for (const orchard::Role& role : game->roles()) {
    if (role.is_chance()) continue;
    series.players.push_back({role.name(), "random"});
    if (role != table.role()) continue;
    series.players.back().make = [&](std::uint64_t seed) {
      return orchard::learned_player(*game, kept, seed).value();
    };
  }
  const auto result = orchard::run_series(*game, series).value();
  std::cout << "against random it wins " << result.by_player[0].wins << " of " << result.games
            << '\n';
}
