#include <fmt/core.h>

#include <algorithm>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "orchard/domains.hpp"
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

// Numbers in a row as one stretch: 1 … 8.
std::string listed(const std::vector<std::string>& values) {
  std::string text;
  for (std::size_t first = 0; first < values.size();) {
    std::size_t last = first;
    const auto number = [&](std::size_t at) { return Term::constant(values[at]).number(); };
    while (number(first) && last + 1 < values.size() &&
           number(last + 1) == *number(first) + static_cast<std::int64_t>(last + 1 - first)) {
      ++last;
    }
    constexpr std::size_t least = 3;  // numbers that are worth a stretch
    if (last - first + 1 < least) last = first;
    text += text.empty() ? "" : " ";
    text += last == first ? values[first] : fmt::format("{} … {}", values[first], values[last]);
    first = last + 1;
  }
  return values.empty() ? "nothing" : text;
}

void print_domains(const Game& game) {
  std::string before;
  for (const ArgumentDomain& domain : argument_domains(game)) {
    const std::string owner =
        fmt::format("{} {}/{}", name_of(domain.kind), domain.name, domain.arity);
    if (owner != before) fmt::print("{}\n", owner);
    before = owner;
    fmt::print("  {}  {}\n", domain.argument, listed(domain.values));
  }
}

Json domains_json(const Game& game) {
  Json list = Json::array();
  for (const ArgumentDomain& domain : argument_domains(game)) {
    list.push_back({{"kind", name_of(domain.kind)},
                    {"name", domain.name},
                    {"arity", domain.arity},
                    {"argument", domain.argument},
                    {"values", domain.values}});
  }
  return list;
}

void print_text(const Call& call, const Diagnostics& diagnostics, const Diagnostics& hints) {
  if (diagnostics.empty()) fmt::print("{}: nothing to report\n", call.game);
  fmt::print("{}", diagnostics.render());
  if (call.flag("quiet") || hints.empty()) return;
  if (call.flag("verbose")) {
    fmt::print("{}", hints.render());
  } else {
    const std::size_t count = hints.items().size() + hints.left_out();
    fmt::print("{} hint{} of style (--verbose shows {})\n", count, count == 1 ? "" : "s",
               count == 1 ? "it" : "them");
  }
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
  const Diagnostics hints = chosen(call, game ? game->hints() : Diagnostics{});
  if (call.json()) {
    Json document = {{"diagnostics", to_json(diagnostics)}};
    if (call.flag("verbose")) document["hints"] = to_json(hints);
    if (game && call.flag("domains")) document["domains"] = domains_json(*game);
    print_json(document);
  } else {
    print_text(call, diagnostics, hints);
    if (game && call.flag("domains")) print_domains(*game);
  }
  if (!game) return Status::wrong_call;
  return diagnostics.empty() ? Status::done : Status::failed;
}

}  // namespace orchard::cli
