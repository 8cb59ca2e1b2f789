#include "orchard/cases.hpp"
#include "orchard/coverage.hpp"
#include "orchard/faults.hpp"
#include "orchard/report.hpp"

#include <fmt/core.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>

#include "base/counted.hpp"
#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/coverage_text.hpp"
#include "cli/fault_text.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "cli/watch.hpp"

namespace orchard::cli {
namespace {

// NAME.cases beside NAME.gdl, unless the call names a file.
std::string case_file(const Call& call) {
  if (const auto given = call.text("file")) return *given;
  return std::filesystem::path(call.game).replace_extension(".cases").string();
}

std::string read_text(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(file), {}};
}

std::string at(const Place& place) {
  return fmt::format("{}:{}:{}", place.file, place.line, place.column);
}

void print_failure(const Game& game, const Picture& picture, const CaseResult& result,
                   const TextStyle& style) {
  print("failed: {}   {}\n", result.name, at(result.place));
  for (const CaseFailure& failure : result.failures) {
    print("   {}: expected {}\n      found: {}\n", at(failure.place), failure.expected,
          failure.found);
  }
  if (result.position) {
    print("   {}\n", page(game, picture, *result.position, result.ply, style, false));
  }
}

Result<CaseCoverage> coverage_of(const Call& call, const Game& game, const std::string& cases,
                                 const CaseOptions& reading) {
  CoverageOptions options;
  options.cases = reading;
  options.budget = call.budget();
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.seed = *call.number("seed");
  auto covered = case_coverage(game_to_explore(call, game), cases, options);
  if (options.budget.progress) remark("\r\x1b[K");
  return covered;
}

// Reads drawn boards by the drawing rules of the call, for whatever game the cases are run on.
std::function<DrawingReader(const Game&)> readers_of(const Call& call) {
  const std::string drawing = drawing_file(call);
  if (drawing.empty()) return {};
  return [drawing](const Game& game) -> DrawingReader {
    return [game, drawing](const std::string& board, const std::vector<Term>& fluents) {
      const auto picture = Picture::load(game, drawing);
      return picture ? picture->read_drawn(board, fluents)
                     : Result<Position>(picture.diagnostics());
    };
  };
}

// Writes the repair that --write names, if it does.
Diagnostics write_repair(const Call& call, const Mending& mending) {
  const auto number = call.number("write");
  if (!number) return {};
  if (*number <= mending.repairs.size()) {
    return write_whole_file(call.game, mending.repairs[*number - 1].text);
  }
  Diagnostics faults;
  faults.add(plain_error(
      "wrong-call", fmt::format("there is no edit number {}", *number),
      fmt::format("{} proposed", counted(mending.repairs.size(), "edit is", "edits are"))));
  return faults;
}

// Who judges edits of the rules, and what that may cost: options of planting and of mending.
template <class Options>
Result<Options> judging(const Call& call, const std::string& cases) {
  auto load = load_options(call);
  if (!load) return load.diagnostics();
  Options options;
  options.load = std::move(*load);
  options.cases = cases;
  options.claims = call.claims_file();
  options.reader = readers_of(call);
  options.budget = call.budget();
  options.budget.progress = {};
  options.threads = static_cast<unsigned>(*call.number("threads"));
  return options;
}

// Counts on standard error, on a terminal.
std::function<void(std::size_t)> counter(const Call& call, std::string_view what) {
  if (call.budget().progress == nullptr) return {};
  return [what](std::size_t done) { remark("\r\x1b[K{} {}", done, what); };
}
void end_counting(const Call& call) {
  if (call.budget().progress) remark("\r\x1b[K");
}

Result<Mending> mended(const Call& call, const std::string& cases) {
  const auto options = judging<MendOptions>(call, cases);
  if (!options) return options.diagnostics();
  auto result = mend_rules(call.game, *options, counter(call, "edits"));
  end_counting(call);
  return result;
}

Result<FaultTrial> planted_faults(const Call& call, const std::string& cases) {
  auto options = judging<FaultOptions>(call, cases);
  if (!options) return options.diagnostics();
  options->most = *call.number("sample");
  options->seed = *call.number("seed");
  auto planted = plant_faults(call.game, *options, counter(call, "faults"));
  end_counting(call);
  return planted;
}

struct Tested {
  const Call& call;
  const Game& game;
  const std::string& file;  // of the cases
  const CaseOptions& options;
};

// --coverage, --faults and --mend: printed, and added to the document. What is wrong with them, if
// so.
Diagnostics add_what_cases_are_worth(const Tested& tested, Json& document, Status& status) {
  const Call& call = tested.call;
  if (call.flag("coverage")) {
    const auto coverage = coverage_of(call, tested.game, tested.file, tested.options);
    if (!coverage) return coverage.diagnostics();
    document["coverage"] = document_of(*coverage);
    // A number of positions is as far as play is looked at; less time than that takes is not.
    const bool cut = coverage->ending != Ending::complete && coverage->ending != Ending::positions;
    if (cut && status == Status::done) status = Status::unfinished;
    if (const auto page = call.text("report")) {
      const Diagnostics unwritten = write_whole_file(*page, to_html(tested.game, *coverage));
      status = after_side_files(status, unwritten);
    }
    if (!call.json()) {
      print("{}", coverage_text(*coverage, call.game,
                                call.flag("verbose") ? read_text(call.game) : std::string()));
    }
  }
  if (call.flag("faults")) {
    const auto trial = planted_faults(call, tested.file);
    if (!trial) return trial.diagnostics();
    document["planted"] = document_of(*trial);
    if (trial->ending != Ending::complete && status == Status::done) status = Status::unfinished;
    if (!call.json()) print("{}", fault_text(*trial, call.game, call.flag("verbose")));
  }
  if (call.flag("mend")) {
    const auto mending = mended(call, tested.file);
    if (!mending) return mending.diagnostics();
    document["mended"] = document_of(*mending);
    if (!call.json()) print("{}", mend_text(*mending, call.game));
    return write_repair(call, *mending);
  }
  return {};
}

Status cases_once(const Call& call, RunAnswers& answers) {
  const auto game = load_game(call);
  if (!game) return Status::wrong_call;
  const std::string file = case_file(call);
  const auto picture = picture_of(call, *game);
  if (!picture) return Status::wrong_call;
  const TextStyle style = call.style();
  CaseOptions options;
  options.filter = call.text("filter").value_or("");
  options.reader = [&](const std::string& drawing, const std::vector<Term>& fluents) {
    return picture->read_drawn(drawing, fluents);
  };
  if (const auto kept = call.text("solution")) {
    const auto solution = Solution::kept(*kept, *game);
    if (!solution) return report(call, solution.diagnostics());
    options.solution = *solution;
  }
  if (call.text("report") && !call.flag("coverage")) {
    return report(
        call, plain_error("wrong-call", "--report is the page of --coverage", "add --coverage"));
  }
  const bool progress = !call.flag("quiet") && ::isatty(STDERR_FILENO) != 0;
  std::size_t done = 0;
  const auto results = run_cases(*game, file, options, [&](const CaseResult& result) {
    if (progress) remark("\r\x1b[K{} cases", ++done);
    if (call.json()) return;
    if (progress) remark("\r\x1b[K");
    if (!result.passed()) print_failure(*game, *picture, result, style);
    if (result.passed() && call.flag("verbose")) print("passed: {}\n", result.name);
  });
  if (progress) remark("\r\x1b[K");
  if (!results) return report(call, results.diagnostics());
  for (const CaseResult& result : *results) {
    answers[fmt::format("\"{}\"", result.name)] = result.passed() ? "passes" : "fails";
  }
  Diagnostics unwritten;
  if (const auto junit = call.text("junit")) {
    unwritten = write_whole_file(*junit, to_junit(*results, game->name()));
  }
  std::size_t failed = 0;
  for (const CaseResult& result : *results) failed += result.passed() ? 0 : 1;
  Status status = failed > 0 ? Status::failed : Status::done;
  if (!call.json()) print("{}: {} passed, {} failed\n", file, results->size() - failed, failed);
  Json document = document_of(*results);
  Diagnostics faults = add_what_cases_are_worth({call, *game, file, options}, document, status);
  if (!faults.empty()) return report(call, faults);
  if (call.json()) print_json(document);
  return after_side_files(status, unwritten);
}

}  // namespace

Status cases(const Call& call) {
  if (call.flag("watch")) {
    return watch_files(call, [&](RunAnswers& answers) { return cases_once(call, answers); });
  }
  RunAnswers answers;
  return cases_once(call, answers);
}

}  // namespace orchard::cli
