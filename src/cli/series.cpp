// Many matches between the same players: `orchard series`.
#include "orchard/series.hpp"

#include <fmt/core.h>
#include <set>

#include <algorithm>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/chart_files.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/seats.hpp"
#include "orchard/chart.hpp"
#include "report/tables.hpp"

namespace orchard::cli {
namespace {

// What was played, and what of it came from the store.
std::string head_line(const Game& game, std::uint64_t games, std::uint64_t stored) {
  std::string text = fmt::format("{} matches of {}", games, game.name());
  if (stored > 0) text += fmt::format(" ({} of them from the store)", stored);
  return text;
}

// The matches that count as neither won, drawn nor lost.
template <class Result>
void print_without_result(const Result& result) {
  if (result.unfinished > 0) print("broken off by --plies: {}\n", result.unfinished);
  if (result.stuck > 0) {
    print("stuck: {} (a role had no legal move, and the game was not over)\n", result.stuck);
  }
  if (result.without_goals > 0) {
    print("without a result: {} (a role had no goal, or several)\n", result.without_goals);
  }
}

void print_forfeits(std::uint64_t forfeits, std::uint64_t late) {
  if (forfeits > late) print("forfeited by an illegal move: {}\n", forfeits - late);
  if (late > 0) print("forfeited by a late move: {}\n", late);
}

// A bar of the score from 0 to 1, with the interval as its softer end.
std::string bar(const Share& share, bool unicode) {
  constexpr int width = 24;
  std::string text;
  for (int i = 0; i < width; ++i) {
    const double at = (i + 0.5) / width;
    text += at < share.least  ? (unicode ? "█" : "#")
            : at < share.most ? (unicode ? "▒" : "=")
                              : (unicode ? "░" : ".");
  }
  return text;
}

// Of a role that plays alone the mean goal leads.
void print_line(const std::string& name, std::size_t width, const SeriesTally& tally, bool alone,
                bool unicode) {
  const Share share = report::score_of(tally);
  const std::string goal = fmt::format("{:>6.1f}", tally.mean_goal());
  print("   {:<{}} {}{:>6} {:>7} {:>6} {:>7.1f} %  {}  {:>5.1f} to {:>5.1f} %{}", name, width,
        alone ? goal + "  " : "", tally.wins, tally.draws + tally.scored, tally.losses,
        100 * share.share, bar(share, unicode), 100 * share.least, 100 * share.most,
        alone ? "" : "  " + goal);
  if (tally.choices > 0) {
    print("  {:>8.2f} ms", 1000 * tally.seconds / static_cast<double>(tally.choices));
  }
  print("\n");
}

void print_text(const Call& call, const Game& game, const SeriesOptions& options,
                const SeriesResult& result) {
  const bool unicode = call.style().unicode;
  const std::vector<std::string> seats = report::seat_names(game);
  print("{}{}\n\n", head_line(game, result.games, result.stored),
        seats.size() < 2      ? ""
        : options.fixed_seats ? ", all in the same seats"
                              : ", seats changing from match to match");
  std::size_t width = 6;
  std::size_t longest_seat = 0;
  for (const std::string& seat : seats) longest_seat = std::max(longest_seat, seat.size());
  for (const SeriesPlayer& player : options.players) {
    width = std::max(width, player.name.size() + (options.fixed_seats ? longest_seat + 4 : 3));
  }
  width = std::max(width, longest_seat + 5);
  const bool alone = report::plays_alone(game);
  print("   {:<{}} {}{:>6} {:>7} {:>6} {:>9}  {:<24}  {:<16}{}  {:>11}\n", "player", width,
        alone ? "  goal  " : "", "won", alone ? "between" : "drawn", "lost",
        alone ? "won" : "score", "", "95 % interval", alone ? "" : "    goal", "a choice");
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    std::string name = options.players[p].name;
    if (options.fixed_seats && !alone) name += " as " + seats[p];
    print_line(name, width, result.by_player[p], alone, unicode);
    for (std::size_t seat = 0; seat < seats.size() && !options.fixed_seats && !alone; ++seat) {
      if (result.by_seat[p][seat].games == 0) continue;
      print_line("  as " + seats[seat], width, result.by_seat[p][seat], alone, unicode);
    }
  }
  std::uint64_t plies = 0;
  for (const auto& [length, games] : result.lengths) plies += length * games;
  if (result.games > 0) {
    print("\nlength in plies: mean {:.2f}, least {}, most {}\n",
          static_cast<double>(plies) / static_cast<double>(result.games),
          result.lengths.begin()->first, result.lengths.rbegin()->first);
  }
  print_without_result(result);
  print_forfeits(result.forfeits, result.late);
  if (result.ending != Ending::complete) {
    print("{} after {} of {} matches\n", remark_on(result.ending), result.games, options.games);
  }
}

std::string score_chart(const Game& game, const SeriesOptions& options,
                        const SeriesResult& result) {
  std::vector<ChartRow> rows;
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    const Share score = report::score_of(result.by_player[p]);
    rows.push_back({options.players[p].name, 100 * score.share, 100 * score.least, 100 * score.most,
                    fmt::format("{:.1f} %", 100 * score.share)});
  }
  return interval_chart(fmt::format("{}: {} matches", game.name(), result.games),
                        report::plays_alone(game)
                            ? "matches won in per cent, with the 95 % interval"
                            : "score in per cent, a draw as half, with its 95 % interval",
                        rows, report::plays_alone(game) ? 0 : 50);
}

std::string rating_chart(const Game& game, const SeriesOptions& options,
                         const RoundRobinResult& result) {
  std::vector<ChartRow> rows;
  for (const std::size_t p : report::by_rating(result)) {
    const Rating& rating = result.ratings[p];
    rows.push_back({options.players[p].name, rating.rating, rating.least, rating.most,
                    fmt::format("{:+.0f}", rating.rating)});
  }
  return interval_chart(fmt::format("{}: {} matches, each against each", game.name(), result.games),
                        "rating with its 95 % interval; 400 points are odds of ten to one", rows,
                        0);
}

void print_text(const Game& game, const SeriesOptions& options, const RoundRobinResult& result) {
  print("{}, each against each\n\n", head_line(game, result.games, result.stored));
  std::size_t width = 8;
  for (const SeriesPlayer& player : options.players) width = std::max(width, player.name.size());
  const std::vector<std::size_t> order = report::by_rating(result);
  print("   {:<{}}  {:>6}  {:<16}  {:>6} {:>6} {:>6}  better than", "player", width, "rating",
        "95 % interval", "won", "drawn", "lost");
  for (std::size_t i = 0; i < order.size(); ++i) print(" {:>5}", i + 1);
  print("\n");
  for (std::size_t i = 0; i < order.size(); ++i) {
    const std::size_t p = order[i];
    const SeriesTally& tally = result.by_player[p];
    const Rating& rating = result.ratings[p];
    print("   {:<{}}  {:>+6.0f}  {:<16}  {:>6} {:>6} {:>6}  {:>11}", options.players[p].name, width,
          rating.rating, fmt::format("{:+.0f} to {:+.0f}", rating.least, rating.most), tally.wins,
          tally.draws, tally.losses, i + 1);
    for (const std::size_t other : order) {
      if (other == p) {
        print(" {:>5}", "");
      } else {
        print(" {:>5g}", result.better[p][other]);
      }
    }
    print("\n");
  }
  print("\n400 points are odds of ten to one; draws count as half\n");
  print_without_result(result);
  print_forfeits(result.forfeits, result.late);
  if (result.ending != Ending::complete) {
    print("{} after {} matches\n", remark_on(result.ending), result.games);
  }
}

// The players of --player NAME=WHO, or of --seat and --name.
Diagnostics add_players(const Call& call, const Game& game, SeriesOptions& options) {
  const auto players = players_of(call, game);
  if (!players) return players.diagnostics();
  for (const NamedPlayer& player : *players)
    options.players.push_back({player.name, player.who, {}});
  return {};
}

// Players by a file, read once.
Diagnostics seat_from_files(const Game& game, SeriesOptions& options) {
  Diagnostics faults;
  for (SeriesPlayer& player : options.players) {
    auto from_file = player_from_file(game, player.who);
    if (!from_file) {
      faults.append(from_file.diagnostics());
    } else if (from_file->make) {
      player.make = from_file->make;
      player.content = from_file->content;
    }
  }
  return faults;
}

Status round_robin(const Call& call, const Game& game, const SeriesOptions& options) {
  const auto result = run_round_robin(game, options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!result) return report(call, result.diagnostics());
  Diagnostics unwritten = write_charts(call, rating_chart(game, options, *result));
  if (const auto file = call.text("csv")) {
    unwritten.append(write_whole_file(*file, report::csv_of(options, *result)));
  }
  if (call.json()) {
    print_json(document_of(options, *result));
  } else {
    print_text(game, options, *result);
  }
  return after_side_files(status_of(result->ending), unwritten);
}

}  // namespace

Status series(const Call& call) {
  const auto opened = open_game_to_explore(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  SeriesOptions options;
  Diagnostics faults = add_players(call, game, options);
  if (faults.empty()) faults = seat_from_files(game, options);
  if (!faults.empty()) return report(call, faults);
  std::set<std::string> noted;
  for (const SeriesPlayer& player : options.players) {
    if (noted.insert(player.who).second) print_caveat(call, player.who, game);
  }
  options.games = call.number("games").value_or(options.games);
  options.seed = *call.number("seed");
  options.plies = *call.number("plies");
  options.threads = static_cast<unsigned>(*call.number("threads"));
  // Whoever was given a seat keeps it.
  options.fixed_seats = call.flag("fixed-seats") || !call.texts("seat").empty();
  options.move_seconds = call.seconds("move-seconds");
  options.from = opened->start;
  options.budget = call.budget();
  options.moves = call.flag("moves");
  if (options.moves && !call.text("store")) {
    return report(
        call, plain_error("wrong-call", "--moves keeps matches in a store", "add --store FILE"));
  }
  if (const auto file = call.text("store")) {
    if (file->empty()) {
      return report(call, plain_error("wrong-call", "--store names no file", "give --store FILE"));
    }
    const auto store = ResultsStore::open(*file);
    if (!store) return report(call, store.diagnostics());
    options.store = *store;
  }
  if (options.players.size() > report::seat_names(game).size())
    return round_robin(call, game, options);
  const auto result = run_series(game, options);
  if (options.budget.progress) remark("\r\x1b[K");
  if (!result) return report(call, result.diagnostics());
  Diagnostics unwritten = write_charts(call, score_chart(game, options, *result));
  if (const auto file = call.text("csv")) {
    unwritten.append(write_whole_file(*file, report::csv_of(game, options, *result)));
  }
  if (call.json()) {
    print_json(document_of(game, options, *result));
  } else {
    print_text(call, game, options, *result);
  }
  return after_side_files(status_of(result->ending), unwritten);
}

}  // namespace orchard::cli
