#include <fmt/core.h>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "orchard/circuit.hpp"

namespace orchard::cli {
namespace {

void print_statistics(const std::string& name, const CircuitStatistics& of) {
  const auto milliseconds = [](double seconds) { return fmt::format("{:.1f} ms", seconds * 1e3); };
  print("{}\n\n", name);
  print("rules without variables   {:>8} clauses over {} atoms; {} fluents, {} moves   {}\n",
        of.clauses, of.atoms, of.fluents, of.moves, milliseconds(of.ground_seconds));
  print("network of the game       {:>8} gates of any width   {}\n", of.gates,
        milliseconds(of.network_seconds));
  print("a ply of random play      {:>8} gates with {} random choice{}, {} of two inputs\n",
        of.play_gates, of.choices, of.choices == 1 ? "" : "s", of.play_pairs);
  print("… as functions of three   {:>8} operations on 512 positions at once   {}\n", of.operations,
        milliseconds(of.mapping_seconds));
  print("… run by {:<16} {:>8} bytes of code, {} values in memory   {}\n", of.executor,
        of.code_bytes, of.scratch_blocks, milliseconds(of.code_seconds));
}

Status write(const Call& call, const Result<std::string>& text) {
  if (!text) return report(call, text.diagnostics());
  if (const auto file = call.text("output")) {
    const Diagnostics faults = write_whole_file(*file, *text);
    return faults.empty() ? Status::done : report(call, faults);
  }
  if (call.json()) {
    print_json(Json{{"text", *text}});
  } else {
    print("{}", *text);
  }
  return Status::done;
}

}  // namespace

Status export_game(const Call& call) {
  const auto loaded = load_game(call);
  if (!loaded) return Status::wrong_call;
  const std::optional<Game> game = game_to_explore(call, *loaded);
  const std::string form = *call.text("form");
  if (form == "aiger") return write(call, to_aiger(*game));
  if (form == "rules") return write(call, ground_rules(*game));
  if (form == "network") return write(call, network_rules(*game));
  const auto statistics = circuit_statistics(*game);
  if (!statistics) return report(call, statistics.diagnostics());
  if (call.json()) {
    print_json(document_of(*statistics));
  } else {
    print_statistics(game->name(), *statistics);
  }
  return Status::done;
}

}  // namespace orchard::cli
