#include <fmt/core.h>

#include <algorithm>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "orchard/sarif.hpp"

namespace orchard::cli {
namespace {

// Without the findings that --allow leaves out; errors stay.
Diagnostics chosen(const Call& call, const Diagnostics& diagnostics) {
  const std::vector<std::string> allowed = call.texts("allow");
  Diagnostics result;
  for (const Diagnostic& item : diagnostics) {
    const bool left_out =
        item.severity != Severity::error && std::ranges::find(allowed, item.code) != allowed.end();
    if (!left_out) result.add(item);
  }
  return result;
}

}  // namespace

Status check(const Call& call) {
  const auto options = load_options(call);
  if (!options) return report(call, options.diagnostics());
  const auto game = Game::load(call.game, *options);
  const Diagnostics diagnostics = chosen(call, game ? game->findings() : game.diagnostics());
  if (const auto file = call.text("sarif")) {
    const Diagnostics faults = write_whole_file(*file, to_sarif(diagnostics, ORCHARD_VERSION));
    if (!faults.empty()) return report(call, faults);
  }
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
