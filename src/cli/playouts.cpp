#include "orchard/playouts.hpp"

#include <fmt/core.h>

#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
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

}  // namespace

Status playouts(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  const Position& start = opened->start;
  if (game.terminal(start)) {
    Diagnostics over;
    over.add(plain_error(
        "game-over", "this position is already over: " + describe(game, outcome_of(game, start)),
        "give a position in which somebody can still move"));
    return report(call, over);
  }
  PlayoutOptions options;
  options.games = call.number("games");
  options.seed = *call.number("seed");
  options.plies = *call.number("plies");
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.from = start;
  options.budget = call.budget();
  if (!options.games && !options.budget.seconds) options.games = usual_games;
  const auto result = run_playouts(game, options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!result) return report(call, result.diagnostics());
  if (call.json()) {
    print_json(document_of(game, *result));
  } else {
    print_report(game, *result, call.style().unicode);
  }
  // Without --games the seconds are the amount asked for.
  const bool as_asked =
      result->ending == Ending::complete || (result->ending == Ending::time && !options.games);
  return as_asked ? Status::done : Status::unfinished;
}

}  // namespace orchard::cli
