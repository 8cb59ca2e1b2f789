#include "orchard/cases.hpp"
#include "orchard/coverage.hpp"
#include "orchard/report.hpp"

#include <fmt/core.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/coverage_text.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"

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

}  // namespace

Status cases(const Call& call) {
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
  Diagnostics unwritten;
  if (const auto junit = call.text("junit")) {
    unwritten = write_whole_file(*junit, to_junit(*results, game->name()));
  }
  std::size_t failed = 0;
  for (const CaseResult& result : *results) failed += result.passed() ? 0 : 1;
  if (!call.json()) print("{}: {} passed, {} failed\n", file, results->size() - failed, failed);
  std::optional<CaseCoverage> coverage;
  if (call.flag("coverage")) {
    CoverageOptions asked;
    asked.cases = options;
    asked.budget = call.budget();
    asked.threads = static_cast<unsigned>(*call.number("threads"));
    asked.seed = *call.number("seed");
    auto covered = case_coverage(*game, file, asked);
    if (asked.budget.progress) remark("\r\x1b[K");
    if (!covered) return report(call, covered.diagnostics());
    coverage = std::move(*covered);
    if (const auto page = call.text("report")) {
      unwritten.append(write_whole_file(*page, to_html(*game, *coverage)));
    }
  }
  if (call.json()) {
    Json document = document_of(*results);
    if (coverage) document["coverage"] = document_of(*coverage);
    print_json(document);
  } else if (coverage) {
    print("{}", coverage_text(*coverage, call.game,
                              call.flag("verbose") ? read_text(call.game) : std::string()));
  }
  return after_side_files(failed > 0 ? Status::failed : Status::done, unwritten);
}

}  // namespace orchard::cli
