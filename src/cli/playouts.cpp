#include "orchard/playouts.hpp"

#include <fmt/core.h>

#include "base/counted.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "orchard/formula_counts.hpp"
#include "orchard/match.hpp"
#include "orchard/series.hpp"

namespace orchard::cli {
namespace {

constexpr std::uint64_t usual_games = 1000;
constexpr std::size_t histogram_rows = 16;

// A share with the half-width of its 95 % interval.
std::string share(std::uint64_t count, std::uint64_t of) {
  const Share interval = wilson(static_cast<double>(count), static_cast<double>(of));
  return fmt::format("{:>6.2f} % ± {:.2f}",
                     100 * static_cast<double>(count) / static_cast<double>(of),
                     50 * (interval.most - interval.least));
}

void print_outcomes(const Game& game, const PlayoutStatistics& result) {
  print("\noutcomes\n");
  for (const auto& [values, count] : result.outcomes) {
    std::string text;
    for (const Role& role : game.roles()) {
      if (role.is_chance()) continue;
      text += fmt::format("{}{}", text.empty() ? "" : "   ", role.name());
      if (values[role.index()].empty()) text += " no value";
      for (const Term& value : values[role.index()])
        text += fmt::format(" {:>3}", value.to_string());
    }
    print("   {}   {:>9}   {}\n", text, count, share(count, result.playouts));
  }
  if (result.unfinished > 0) {
    print("   broken off by --plies   {:>9}   {}\n", result.unfinished,
          share(result.unfinished, result.playouts));
  }
  if (result.stuck > 0) {
    print("   a role without a legal move   {:>9}   {}\n", result.stuck,
          share(result.stuck, result.playouts));
  }
}

void print_lengths(const PlayoutStatistics& result, bool unicode) {
  if (result.lengths.empty()) return;
  const std::uint64_t least = result.lengths.begin()->first;
  const std::uint64_t most = result.lengths.rbegin()->first;
  print("\nlength in plies: mean {:.2f}, least {}, median {}, most {}\n", result.mean_length(),
        least, result.median_length(), most);
  const std::uint64_t step = (most - least) / histogram_rows + 1;
  std::map<std::uint64_t, std::uint64_t> rows;
  std::uint64_t highest = 0;
  for (const auto& [plies, games] : result.lengths) {
    highest = std::max(highest, rows[(plies - least) / step] += games);
  }
  for (const auto& [row, games] : rows) {
    const std::uint64_t first = least + row * step;
    const std::string label =
        step == 1 ? std::to_string(first) : fmt::format("{}-{}", first, first + step - 1);
    constexpr double widest = 50;
    const auto bar = static_cast<std::size_t>(
        std::ceil(widest * static_cast<double>(games) / static_cast<double>(highest)));
    std::string drawn;
    for (std::size_t i = 0; i < bar; ++i) drawn += unicode ? "▆" : "=";
    print("   {:>9} {} {}\n", label, drawn, games);
  }
}

void print_report(const Game& game, const PlayoutStatistics& result, bool unicode) {
  if (result.playouts == 0) {
    print("{} before a random game had ended\n", remark_on(result.ending));
    return;
  }
  print("{} random games, {} plies in {:.2f} s: {:.0f} games a second\n", result.playouts,
        result.plies, result.seconds, static_cast<double>(result.playouts) / result.seconds);
  if (result.playouts > 0) print_outcomes(game, result);
  print_lengths(result, unicode);
  print("\nlegal moves when to move, on average\n");
  for (const Role& role : game.roles()) {
    print("   {} {:.2f}\n", role.name(), result.branching[role.index()]);
  }
}

void print_counts(const FormulaCounts& counts) {
  if (counts.games == 0) {
    print("\nno formula was counted: {}\n", remark_on(counts.ending));
    return;
  }
  print("\nin {} random games\n", counts.games);
  for (const FormulaCount& count : counts.formulas) {
    print("   {}\n      in {} of the games", count.formula, share(count.games, counts.games));
    if (count.games > 0) {
      const std::uint64_t least = count.first.begin()->first;
      const std::uint64_t most = count.first.rbegin()->first;
      const std::string first = most == 0 ? "from the start on"
                                : least == most
                                    ? "first after " + counted(least, "ply", "plies")
                                    : fmt::format("first after {} to {} plies, {:.2f} on average",
                                                  least, most, count.mean_first());
      print(", {}; in {:.2f} positions a game", first,
            static_cast<double>(count.positions) / static_cast<double>(counts.games));
    }
    print("\n");
    for (const std::string& unfit : count.unfit) {
      print("      nothing that the rules derive matches {}\n", unfit);
    }
  }
}

}  // namespace

Status playouts(const Call& call) {
  const std::vector<std::string> formulas = call.texts("count");
  auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  PlayoutOptions options;
  options.budget = call.budget();
  const Stopwatch clock(options.budget);
  opened =
      formulas.empty() ? ready_to_play_at_random(call, *opened) : ready_to_explore(call, *opened);
  const Game& game = opened->game;
  const Position& start = opened->start;
  if (game.terminal(start)) {
    Diagnostics over;
    over.add(plain_error(
        "game-over", "this position is already over: " + describe(game, outcome_of(game, start)),
        "give a position in which somebody can still move"));
    return report(call, over);
  }
  options.games = call.number("games");
  options.seed = *call.number("seed");
  options.plies = *call.number("plies");
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.from = start;
  if (options.budget.seconds) {  // less those that making a circuit took
    *options.budget.seconds = std::max(0.0, *options.budget.seconds - clock.seconds());
  }
  if (!options.games && !options.budget.seconds) options.games = usual_games;
  if (!formulas.empty() && !options.games)
    *options.budget.seconds /= 2;  // the rest is for counting
  if (!call.flag("quiet") && circuit_takes_too_long(game)) {
    remark(
        "{}: making a circuit takes too long; the games are played without one, which is slower\n",
        call.game);
  }
  const auto result = run_playouts(game, options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!result) return report(call, result.diagnostics());
  std::optional<FormulaCounts> counts;
  if (!formulas.empty()) {
    auto counted = count_formulas(game, formulas, options);
    if (!counted) return report(call, counted.diagnostics());
    counts = std::move(counted).value();
  }
  if (call.json()) {
    Json document = document_of(game, *result);
    if (counts) document["counts"] = document_of(*counts);
    print_json(document);
  } else {
    print_report(game, *result, call.style().unicode);
    if (counts) print_counts(*counts);
  }
  if (counts && options.games && counts->ending != Ending::complete) return Status::unfinished;
  // Without --games the seconds are the amount asked for.
  const bool as_asked =
      result->ending == Ending::complete || (result->ending == Ending::time && !options.games);
  return as_asked ? Status::done : Status::unfinished;
}

}  // namespace orchard::cli
