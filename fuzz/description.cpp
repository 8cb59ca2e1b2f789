// Any text as a description: it is refused with diagnostics, or it loads, is drawn and plays some
// plies within small limits.
#include <cstdint>

#include "orchard/orchard.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  orchard::LoadOptions limits;
  limits.nesting = 500;
  limits.instances = 20'000;
  limits.join_steps = 500'000;
  limits.term_depth = 12;
  const auto game = orchard::Game::from_text(std::string(reinterpret_cast<const char*>(data), size),
                                             "fuzz.gdl", limits);
  if (!game) {
    if (!game.diagnostics().has_errors()) __builtin_trap();
    (void)game.diagnostics().render();
    return 0;
  }
  orchard::Position position = game->initial();
  for (int ply = 0; ply < 3 && !game->terminal(position); ++ply) {
    orchard::JointMove joint;
    for (const orchard::Role& role : game->roles()) {
      const auto legal = game->legal(position, role);
      if (legal.empty()) return 0;
      joint.add(legal[size % legal.size()]);
    }
    const auto next = game->next(position, joint);
    if (!next) break;
    position = *next;
  }
  if (game->position(position.fluents()).value() != position) __builtin_trap();
  return 0;
}
