#include <fmt/core.h>

#include <algorithm>
#include <filesystem>

#include "base/counted.hpp"
#include "base/file.hpp"
#include "base/interruption.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/review_page.hpp"
#include "cli/watch.hpp"
#include "orchard/cases.hpp"
#include "orchard/domains.hpp"
#include "orchard/report.hpp"
#include "orchard/review.hpp"
#include "orchard/shrink.hpp"

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
    if (owner != before) print("{}\n", owner);
    before = owner;
    print("  {}  {}\n", domain.argument, listed(domain.values));
  }
}

void print_text(const Call& call, const Diagnostics& diagnostics, const Diagnostics& hints) {
  if (diagnostics.empty() && !call.flag("quiet")) {
    print("{}: no suspicious rules found\n", call.game);
  }
  print("{}", diagnostics.render());
  if (call.flag("quiet") || hints.empty()) return;
  if (call.flag("verbose")) {
    print("{}", hints.render());
  } else {
    const std::size_t count = hints.items().size() + hints.left_out();
    print("{} hint{} of style (--verbose shows {})\n", count, count == 1 ? "" : "s",
          count == 1 ? "it" : "them");
  }
}

}  // namespace

namespace {

// What failed, as findings about the description.
void add_failures(const Call& call, const std::vector<Answer>& answers, Diagnostics& diagnostics) {
  for (const Answer& answer : answers) {
    if (answer.verdict != Verdict::fails && answer.verdict != Verdict::suspicious) continue;
    Diagnostic finding;
    finding.code = answer.id.substr(0, answer.id.find(':'));
    finding.severity = answer.verdict == Verdict::fails ? Severity::error : Severity::suspicious;
    finding.message = answer.evidence.text();
    finding.place.file = call.game;
    if (!answer.places.empty()) finding.place = answer.places.front().place;
    finding.notes = answer.places;
    diagnostics.add(std::move(finding));
  }
}

Status verdict_of(const Diagnostics& diagnostics, const std::optional<Review>& review) {
  if (!diagnostics.empty() || (review && review->failed())) return Status::failed;
  return review && review->undecided() ? Status::unfinished : Status::done;
}

}  // namespace

namespace {

// Writes the smallest description that still shows a fault.
Status shrink(const Call& call) {
  ShrinkOptions options;
  auto load = load_options(call);
  if (!load) return report(call, load.diagnostics());
  options.load = std::move(*load);
  options.fault = call.text("fault").value_or("");
  options.claims = call.claims_file();
  const auto cases = std::filesystem::path(call.game).replace_extension(".cases");
  std::error_code ignored;
  if (std::filesystem::exists(cases, ignored)) options.cases = cases.string();
  options.budget = call.budget();
  const auto shrunk = shrink_rules(call.game, options);
  if (!shrunk) return report(call, shrunk.diagnostics());
  const std::string file = *call.text("shrink");
  const Diagnostics unwritten = write_whole_file(file, shrunk->text);
  if (call.json()) {
    print_json({{"fault", shrunk->fault},
                {"forms_before", shrunk->forms_before},
                {"forms", shrunk->forms},
                {"tried", shrunk->tried},
                {"complete", shrunk->ending == Ending::complete}});
  } else {
    print("{}: {} of {} forms are left, and {} fails as before ({} tried{})\n", file, shrunk->forms,
          shrunk->forms_before, shrunk->fault,
          counted(shrunk->tried, "description", "descriptions"),
          shrunk->ending == Ending::complete ? std::string()
                                             : fmt::format("; {}", remark_on(shrunk->ending)));
  }
  return after_side_files(status_of(shrunk->ending), unwritten);
}

// The lines of play that failed answers show, as cases.
std::string cases_of(const Game& game, const Review& review) {
  std::string text;
  const auto add = [&](const std::vector<Answer>& answers) {
    for (const Answer& answer : answers) {
      const bool failed = answer.verdict == Verdict::fails || answer.verdict == Verdict::suspicious;
      if (!failed || !answer.line) continue;
      std::string name = answer.id + ": " + answer.evidence.finding;
      std::ranges::replace(name, '"', '\'');
      text += case_of_line(game, name, *answer.line) + "\n";
    }
  };
  add(review.questions);
  add(review.claims);
  return text;
}

void note_answers(const Diagnostics& findings, const std::optional<Review>& review,
                  RunAnswers& answers) {
  for (const Diagnostic& finding : findings) {
    answers[fmt::format("{} [{}]", finding.message, finding.code)] = "is found";
  }
  if (!review) return;
  for (const Answer& answer : review->questions) {
    answers[answer.id] = std::string(name_of(answer.verdict));
  }
  for (const Answer& answer : review->claims) {
    answers[fmt::format("the claim \"{}\"", answer.id)] = std::string(name_of(answer.verdict));
  }
}

void print_proofs(const std::string& folder, const WrittenProofs& proofs) {
  std::string others;
  for (const std::string& id : proofs.left_out) others += (others.empty() ? "" : ", ") + id;
  const std::string_view why =
      proofs.cut_short ? "the time was used up" : "shown by measures or move by move";
  if (proofs.answers == 0) {
    print("\nno proof was written: {}\n",
          others.empty() ? "no answer needed one" : fmt::format("{} ({})", others, why));
    return;
  }
  print("\n{}: proofs of {}, by {}, in {} for any solver\n", folder,
        counted(proofs.answers, "answer", "answers"),
        counted(proofs.invariants, "invariant", "invariants"),
        counted(proofs.queries, "query", "queries"));
  if (!others.empty()) print("   not among them: {} ({})\n", others, why);
}

Status check_once(const Call& call, RunAnswers& answers) {
  if (call.text("shrink")) return shrink(call);
  if (call.text("fault")) {
    return report(call, plain_error("wrong-call", "--fault says what --shrink is to keep",
                                    "add --shrink FILE"));
  }
  if (call.flag("text-only") && (call.text("report") || call.text("proofs"))) {
    const char* const needs = call.text("report") ? "--report" : "--proofs";
    return report(
        call, plain_error("wrong-call", fmt::format("{} needs what --text-only leaves out", needs),
                          "leave out one of the two"));
  }
  const auto options = load_options(call);
  if (!options) return report(call, options.diagnostics());
  auto game = Game::load(call.game, *options);
  const bool text_only = call.flag("text-only");
  Diagnostics found = game ? game->findings() : game.diagnostics();
  Diagnostics style_hints = game ? game->hints() : Diagnostics{};
  std::optional<Picture> picture;
  // Of the text alone only a drawing that is written is looked at: to infer one, games are played.
  bool drawing_fits = true;
  if (game && (!text_only || !drawing_file(call).empty())) {
    const auto drawn = load_picture(call, *game);
    drawing_fits = drawn.ok();
    if (drawn) picture = *drawn;
    found.append(drawn ? picture->findings() : drawn.diagnostics());
    if (drawn) style_hints.append(picture->hints());
  }
  const Diagnostics diagnostics = chosen(call, found);
  const Diagnostics hints = chosen(call, style_hints);
  if (!call.json()) print_text(call, diagnostics, hints);
  std::optional<Review> review;
  if (game && drawing_fits && !text_only) {
    // What the text shows is said by now: this may take all the time there is. The review tells so.
    try {
      game = game_to_explore(call, *game, {}, CircuitReach::first_plies);
      if (picture) picture = load_picture(call, *game).value();
    } catch (const Interrupted& interrupted) {
      if (interrupted.ending != Ending::time) throw;
    }
    ReviewOptions asked;
    asked.budget = call.budget();
    asked.threads = static_cast<unsigned>(*call.number("threads"));
    asked.seed = *call.number("seed");
    if (call.flag("no-symmetry")) asked.symmetry = ReviewOptions::Symmetry::never;
    asked.claims = call.claims_file();
    asked.proofs = call.text("proofs");
    asked.allow = call.texts("allow");
    if (const auto file = call.text("solution")) {
      const auto solution = Solution::kept(*file, *game);
      if (!solution) return report(call, solution.diagnostics());
      asked.solution = *solution;
    }
    auto answered = review_rules(*game, asked);
    if (asked.budget.progress) remark("\r\x1b[K");
    if (!answered) return report(call, answered.diagnostics());
    review = std::move(answered).value();
  }
  note_answers(diagnostics, review, answers);
  Diagnostics unwritten;
  if (const auto file = call.text("cases"); file && review) {
    unwritten.append(write_whole_file(*file, cases_of(*game, *review)));
  }
  if (const auto file = call.text("report"); file && review) {
    unwritten.append(write_whole_file(*file, to_html(*game, *picture, *review)));
  }
  if (const auto file = call.text("sarif")) {
    Diagnostics all = diagnostics;
    if (review) {
      all.append(review->not_asked);
      add_failures(call, review->questions, all);
      add_failures(call, review->claims, all);
    }
    unwritten.append(write_whole_file(*file, to_sarif(all, ORCHARD_VERSION)));
  }
  if (call.json()) {
    Json document = {{"diagnostics", document_of(diagnostics)}};
    if (call.flag("verbose")) document["hints"] = document_of(hints);
    if (game && call.flag("domains")) document["domains"] = document_of(argument_domains(*game));
    if (review) document.update(document_of(*game, *review));
    print_json(document);
  } else {
    if (game && call.flag("domains")) print_domains(*game);
    if (review)
      print("{}", review_page(*game, *picture, *review, call.style(), call.flag("quiet"),
                              call.flag("verbose")));
  }
  if (review && review->proofs && !call.json()) print_proofs(*call.text("proofs"), *review->proofs);
  const bool usable = game && drawing_fits;
  return after_side_files(usable ? verdict_of(diagnostics, review) : Status::wrong_call, unwritten);
}

}  // namespace

Status check(const Call& call) {
  if (call.flag("watch")) {
    return watch_files(call, [&](RunAnswers& answers) { return check_once(call, answers); });
  }
  RunAnswers answers;
  return check_once(call, answers);
}

}  // namespace orchard::cli
