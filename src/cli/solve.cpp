// The value under best play: `orchard solve`.
#include "orchard/solve.hpp"

#include <fmt/core.h>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/page.hpp"
#include "orchard/circuit.hpp"
#include "report/tables.hpp"

namespace orchard::cli {
namespace {

std::string number_of(double value) {
  std::string text = fmt::format("{:.4f}", value);
  text.erase(text.find_last_not_of('0') + 1);
  if (text.back() == '.') text.pop_back();
  return text;
}

std::string meaning_of(const Game& game, const Solution& solution) {
  std::string meaning = solution.secures()
                            ? "what each role can guarantee itself against all others together"
                            : "value under best play";
  if (game.has_hidden_information()) meaning += " if every role saw everything";
  meaning += ", proved";
  if (solution.assumes_selfish()) meaning += " if every role takes what is best for itself";
  return meaning;
}

void print_text(const Game& game, const Picture& picture, const Position& position,
                const Solution& solution, double seconds, const TextStyle& style) {
  print("{} positions{} in {:.2f} s\n", solution.positions(),
        solution.searched() ? " looked at" : "", seconds);
  if (!solution.complete()) {
    print("not solved: {}\n", solution.reason());
    return;
  }
  if (!solution.remark().empty()) print("note: {}\n", solution.remark());
  print("\n{}:\n", meaning_of(game, solution));
  for (const Role& role : game.roles()) {
    if (role.is_chance()) continue;
    const auto value = solution.value(position, role);
    print("   {} {}\n", role.name(),
          value ? number_of(*value)
                : "not known: it depends on choices that are worth the "
                  "same to those who make them");
  }
  for (const Role& role : game.roles()) {
    if (role.is_chance() || game.legal(position, role).size() < 2) continue;
    const auto moves = solution.best(position, role);
    print("best for {}:", role.name());
    for (const GoodMove& next : moves) {
      print(" {}", next.move.to_string());
      if (solution.mixes() && moves.size() > 1) print(" {:.1f} %", 100 * next.share);
    }
    print("\n");
  }
  const Line& line = solution.line();
  if (line.joints.empty()) return;
  print("a line of best play:\n");
  print("{}", line_text(game, line));
  print("{}", page(game, picture, line.last(), line.joints.size(), style, false,
                   picture::last_step(line)));
}

// Every position that somebody chooses in, as learn --show prints a learnt table.
Ending print_choices(const Game& game, const Picture& picture, const Solution& solution,
                     const Call& call, const Budget& budget) {
  if (solution.searched()) {
    print("\nno other positions: one was searched from, and the rest has no value\n");
    return Ending::complete;
  }
  std::size_t count = 0;
  const auto print_one = [&](const Solution::Choice& choice) {
    ++count;
    print("\n{}", picture.text({choice.position}, call.style()));
    print("   {} {}, best:", choice.role.name(), number_of(choice.value));
    for (const GoodMove& next : choice.best) print(" {}", next.move.to_string());
    print("\n");
  };
  const Ending ending = solution.each_choice(game, print_one, budget);
  print("\n{} positions in which somebody chooses{}\n", count,
        ending == Ending::complete ? "" : ", and more that were not looked at");
  return ending;
}

}  // namespace

Status solve(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const auto line = line_of_call(call, opened->game, opened->start);
  if (!line) return Status::wrong_call;
  const Game game = game_to_explore(call, opened->game, {line->last()});
  const Position from = game.position(line->last().fluents()).value();
  const auto picture = picture_of(call, game);
  if (!picture) return Status::wrong_call;
  SolveOptions options;
  options.from = from;
  options.budget = call.budget();
  options.threads = static_cast<unsigned>(*call.number("threads"));
  if (call.flag("search")) options.way = SolveOptions::Way::search;
  if (!has_circuit(game) && !call.flag("quiet")) {
    remark("{}: the rules have no circuit; positions are looked at one by one, breadth first\n",
           call.game);
  }
  const Stopwatch clock(options.budget);
  const auto solution = orchard::solve(game, options);
  const double seconds = clock.seconds();
  if (options.budget.progress) remark("\r\x1b[K");
  if (!solution) return report(call, solution.diagnostics());
  Diagnostics unwritten;
  if (const auto file = call.text("keep")) unwritten = solution->keep(*file);
  Ending listed = Ending::complete;
  if (const auto file = call.text("csv")) {
    const std::string table = report::csv_of(game, *solution, options.budget, listed);
    unwritten.append(write_whole_file(*file, table));
  }
  if (call.json()) {
    Json document = document_of(game, from, *solution);
    document["seconds"] = seconds;
    if (call.flag("all"))
      document["all"] = report::choices_of(game, *solution, options.budget, listed);
    print_json(document);
  } else {
    print_text(game, *picture, from, *solution, seconds, call.style());
    if (call.flag("all")) listed = print_choices(game, *picture, *solution, call, options.budget);
  }
  const bool all = solution->complete() && listed == Ending::complete;
  if (solution->complete() && !all) remark("the list of positions was cut short\n");
  return after_side_files(all ? Status::done : Status::unfinished, unwritten);
}

}  // namespace orchard::cli
