// Why something holds, or not: `orchard why`.
#include "orchard/explain.hpp"

#include <fmt/core.h>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"

namespace orchard::cli {
namespace {

constexpr std::size_t full_depth = 16;

}  // namespace

Status why(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const auto line = line_of_call(call, game, opened->start);
  if (!line) return Status::wrong_call;
  const auto question = Question::parse(game, *call.text("question"));
  if (!question) return report(call, question.diagnostics());
  ExplainOptions options;
  options.in_full = call.flag("full");
  if (options.in_full) options.depth = full_depth;
  Circumstances here{line->last()};
  here.earlier.assign(line->positions.begin(), line->positions.end() - 1);
  here.joints = line->joints;
  auto explanation = orchard::why(game, here, *question, options);
  const auto& faults = explanation.diagnostics().items();
  if (!faults.empty() && faults.front().code == "needs-a-move" && !line->joints.empty()) {
    // Asked of the step that led here.
    here.position = here.earlier.back();
    here.joint = here.joints.back();
    explanation = orchard::why(game, here, *question, options);
  } else if (!faults.empty() && faults.front().code == "needs-a-move") {
    return report(call, plain_error("needs-a-move", faults.front().message,
                                    "give the moves with --after; it is asked of the last ones"));
  }
  if (!explanation) return report(call, explanation.diagnostics());
  Diagnostics unwritten;
  if (const auto file = call.text("dot")) unwritten = write_whole_file(*file, explanation->dot());
  if (call.json()) {
    print_json(document_of(*question, *explanation));
  } else {
    print("{}", explanation->text(call.style().unicode));
  }
  return after_side_files(Status::done, unwritten);
}

}  // namespace orchard::cli
