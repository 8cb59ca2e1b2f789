#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/json.hpp"

namespace orchard::cli {

Status check(const Call& call) {
  const auto options = load_options(call);
  if (!options) return report(call, options.diagnostics());
  const auto game = Game::load(call.game, *options);
  const Diagnostics& diagnostics = game ? game->findings() : game.diagnostics();
  if (call.json()) {
    print_json(Json{{"diagnostics", to_json(diagnostics)}});
  } else if (diagnostics.empty()) {
    fmt::print("{}: nothing to report\n", call.game);
  } else {
    fmt::print("{}", diagnostics.render());
  }
  if (!game) return Status::wrong_call;
  return diagnostics.empty() ? Status::done : Status::failed;
}

}  // namespace orchard::cli
