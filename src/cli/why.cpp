// Why something holds, or not: `orchard why`.
#include "orchard/explain.hpp"

#include <fmt/core.h>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"

namespace orchard::cli {
namespace {

constexpr std::size_t full_depth = 16;

std::string_view name_of(Reason::Kind kind) {
  using Kind = Reason::Kind;
  switch (kind) {
    case Kind::rule:
      return "rule";
    case Kind::stated:
      return "stated";
    case Kind::always:
      return "always";
    case Kind::fluent:
      return "fluent";
    case Kind::move:
      return "move";
    case Kind::comparison:
      return "comparison";
    case Kind::absent:
      return "absent";
    case Kind::repeated:
      return "repeated";
    case Kind::attempts:
      return "attempts";
    case Kind::attempt:
      return "attempt";
    case Kind::no_rule:
      return "no-rule";
    case Kind::since:
      return "since";
    case Kind::open:
      return "open";
  }
  return "";
}

// The reasons as a flat list: `conditions` are numbers of others, so that depth costs nothing.
Json document(const Question& question, const Explanation& explanation) {
  Json reasons = Json::array();
  for (const Reason& reason : explanation.reasons) {
    Json entry = {
        {"kind", name_of(reason.kind)}, {"literal", reason.literal()}, {"holds", reason.holds}};
    if (reason.place.line > 0) {
      entry["file"] = reason.place.file;
      entry["line"] = reason.place.line;
      entry["column"] = reason.place.column;
    }
    if (!reason.bindings.empty()) {
      Json bindings = Json::object();
      for (const auto& [name, value] : reason.bindings) bindings[name] = value.to_string();
      entry["bindings"] = bindings;
    }
    if (!reason.conditions.empty()) entry["conditions"] = reason.conditions;
    if (reason.left_out > 0) entry["left_out"] = reason.left_out;
    if (reason.kind == Reason::Kind::since) entry["ply"] = reason.ply;
    if (!reason.joint.empty()) entry["joint"] = reason.joint;
    reasons.push_back(std::move(entry));
  }
  Reason asked;
  asked.atom = question.atom;
  asked.negated = question.negated;
  return {{"question", asked.literal()}, {"holds", explanation.holds}, {"reasons", reasons}};
}

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
  if (const auto file = call.text("dot")) {
    const Diagnostics failed = write_whole_file(*file, explanation->dot());
    if (!failed.empty()) return report(call, failed);
  }
  if (call.json()) {
    print_json(document(*question, *explanation));
  } else {
    fmt::print("{}", explanation->text(call.style().unicode));
  }
  return Status::done;
}

}  // namespace orchard::cli
