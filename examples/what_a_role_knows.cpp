// Hidden information: what each role knows after some plies: what_a_role_knows games/hedgerow.gdl
#include <algorithm>
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  std::vector<orchard::View> views;
  for (const orchard::Role& role : game->roles()) {
    if (!role.is_chance()) views.emplace_back(*game, role);
  }
  orchard::WalkOptions options;
  options.plies = 6;
  const auto walked = orchard::random_walk(*game, options, [&](const orchard::WalkStep& step) {
    if (!step.joint) return true;
    for (orchard::View& view : views) {
      if (const auto faults = view.advance(step.position, *step.joint); !faults.empty())
        return false;
    }
    return true;
  });
  if (!walked) {
    std::cerr << walked.diagnostics().render();
    return 2;
  }
  for (const orchard::View& view : views) {
    std::cout << view.role() << " was told:";
    for (const orchard::Term& fluent : view.told()) std::cout << ' ' << fluent;
    std::cout << '\n' << view.positions() << " positions fit; certain in addition:";
    const std::vector<orchard::Term> told = view.told();
    for (const orchard::Term& fluent : view.known()) {
      if (!std::ranges::binary_search(told, fluent)) std::cout << ' ' << fluent;
    }
    std::cout << '\n';
  }
}
