#include "orchard/census.hpp"

#include <fmt/core.h>
#include <unistd.h>

#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"

namespace orchard::cli {
namespace {

void print_table(const Census& census, bool sequences) {
  print("{:>5} {:>15} {:>13}{}\n", "depth", "positions", "ends",
        sequences ? fmt::format(" {:>24}", "sequences") : "");
  std::uint64_t ends = 0;
  std::uint64_t stuck = 0;
  std::uint64_t counted = 0;
  for (const CensusDepth& row : census.depths) {
    print("{:>5} {:>15} {:>13}{}\n", row.depth, row.positions, row.terminal,
          sequences ? fmt::format(" {:>24}", row.sequences.value_or("2^128 or more")) : "");
    ends += row.terminal;
    stuck += row.stuck;
    counted += row.positions;
  }
  print("{:>5} {:>15} {:>13}\n", "all", counted, ends);
  if (stuck > 0) print("{} positions are stuck: not over, but a role has no legal move\n", stuck);
  if (census.complete) {
    print("complete: every reachable position, in {:.2f} s\n", census.seconds);
  } else if (census.ending == Ending::complete) {
    print("down to the depth asked for, in {:.2f} s; there are deeper positions\n", census.seconds);
  } else {
    print(
        "{} after {:.2f} s; {} positions found; {}\n", remark_on(census.ending), census.seconds,
        census.positions,
        census.depths.empty() ? "not even one depth is complete" : "the depths above are complete");
  }
}

}  // namespace

Status census(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  CensusOptions options;
  options.depth = call.number("depth");
  options.sequences = call.flag("sequences");
  options.from = start;
  options.symmetry = !call.flag("no-symmetry");
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.files = call.text("files");
  options.budget = call.budget();
  const auto result = take_census(game, options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!result) return report(call, result.diagnostics());
  if (call.json()) {
    print_json(document_of(*result));
  } else {
    print_table(*result, options.sequences);
    if (call.flag("verbose") && result->positions > 0) {
      const auto each = [&](std::uint64_t bytes) {
        return static_cast<double>(bytes) / static_cast<double>(result->positions);
      };
      print("storage: {}; at most {:.1f} bytes a position{}\n", result->store,
            each(result->peak_bytes),
            result->peak_file_bytes == 0
                ? ""
                : fmt::format(", and {:.1f} in files", each(result->peak_file_bytes)));
    }
  }
  return status_of(result->ending);
}

}  // namespace orchard::cli
