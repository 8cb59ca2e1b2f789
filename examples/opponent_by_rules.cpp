// An opponent in the language of the rules, against a random one: opponent_by_rules
// games/espalier.gdl "(<= (prefer ?who (tie 3 3) 9) (role ?who))"
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  const auto rules = orchard::OpponentRules::from_text(*game, argv[2]);
  if (!rules) {
    std::cerr << rules.diagnostics().render();
    return 2;
  }
  orchard::SeriesOptions options;
  options.games = 200;
  options.players = {
      {"by rules", "rules",
       [&](std::uint64_t seed) { return orchard::make_opponent("rules", seed, *rules).value(); }},
      {"random", "random"}};
  const auto result = orchard::run_series(*game, options).value();
  std::cout << "by rules: " << result.by_player[0].wins << " of " << result.games << " won\n";
}
