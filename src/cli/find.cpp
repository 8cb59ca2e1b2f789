// A position in which a formula holds: `orchard find`.
#include <fmt/core.h>

#include "base/counted.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "orchard/cases.hpp"
#include "orchard/review.hpp"

namespace orchard::cli {
namespace {

void print_text(const Call& call, const Game& game, const Picture& picture, const Sought& sought) {
  if (!sought.line) {
    for (const std::string& unfit : sought.unfit) {
      print("nothing that the rules derive matches {}\n", unfit);
    }
    if (sought.proved) {
      print("holds in no reachable position: proved by induction over the plies\n");
    } else if (sought.ending == Ending::complete) {
      print("holds in none of the {} reachable positions\n", sought.positions);
    } else {
      print("not met in {} positions ({}){}\n", sought.positions, remark_on(sought.ending),
            sought.ending == Ending::depth ? "" : " or in random games");
    }
    return;
  }
  const Line& line = *sought.line;
  if (call.flag("case")) {
    print("{}", case_of_line(game, *call.text("question"), line));
    return;
  }
  if (!call.flag("quiet")) {
    print("after {}{}{}:\n", counted(line.joints.size(), "ply", "plies"),
          sought.shortest ? ", the shortest line" : ", a line that need not be the shortest",
          sought.choice.empty() ? "" : " (" + text_of(sought.choice) + ")");
  }
  print("{}", line_text(game, line));
  print("{}", page(game, picture, line.last(), line.joints.size(), call.style(), false,
                   picture::last_step(line)));
}

}  // namespace

Status find(const Call& call) {
  const auto loaded = load_game(call);
  if (!loaded) return Status::wrong_call;
  const std::optional<Game> game = game_to_explore(call, *loaded, {}, CircuitReach::first_plies);
  const auto picture = picture_of(call, *game);
  if (!picture) return Status::wrong_call;
  ReviewOptions options;
  options.budget = call.budget();
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.seed = *call.number("seed");
  if (call.flag("no-symmetry")) options.symmetry = ReviewOptions::Symmetry::never;
  const auto sought = find_position(*game, *call.text("question"), options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!sought) return report(call, sought.diagnostics());
  if (call.json()) {
    print_json(document_of(*game, *sought));
  } else if (call.flag("drawn") && sought->line) {
    print("{}\n", picture->drawn(sought->line->last()));
  } else {
    print_text(call, *game, *picture, *sought);
  }
  if (sought->line) return Status::done;
  const bool is_known = sought->proved || sought->ending == Ending::complete;
  return is_known ? Status::failed : Status::unfinished;
}

}  // namespace orchard::cli
