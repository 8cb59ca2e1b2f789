// Many matches between the same players: `orchard series`.
#include "orchard/series.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/seats.hpp"

namespace orchard::cli {
namespace {

Json tally_json(const SeriesTally& tally) {
  const Share share =
      wilson(static_cast<double>(tally.wins) + 0.5 * static_cast<double>(tally.draws),
             static_cast<double>(tally.games));
  Json entry = {{"games", tally.games},    {"wins", tally.wins},
                {"draws", tally.draws},    {"losses", tally.losses},
                {"score", share.share},    {"interval", {share.least, share.most}},
                {"choices", tally.choices}};
  if (tally.games > 0) entry["mean_goal"] = tally.goals / static_cast<double>(tally.games);
  if (tally.choices > 0) {
    entry["seconds_per_choice"] = tally.seconds / static_cast<double>(tally.choices);
  }
  return entry;
}

std::vector<std::string> seat_names(const Game& game) {
  std::vector<std::string> names;
  for (const Role& role : game.roles()) {
    if (!role.is_chance()) names.push_back(role.name());
  }
  return names;
}

Json document(const Game& game, const SeriesOptions& options, const SeriesResult& result) {
  const std::vector<std::string> seats = seat_names(game);
  Json players = Json::array();
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    Json entry = tally_json(result.by_player[p]);
    entry["name"] = options.players[p].name;
    entry["who"] = options.players[p].who;
    Json& by_seat = entry["seats"] = Json::object();
    for (std::size_t seat = 0; seat < seats.size(); ++seat) {
      if (result.by_seat[p][seat].games > 0) {
        by_seat[seats[seat]] = tally_json(result.by_seat[p][seat]);
      }
    }
    players.push_back(std::move(entry));
  }
  Json lengths = Json::array();
  for (const auto& [plies, games] : result.lengths) {
    lengths.push_back({{"plies", plies}, {"games", games}});
  }
  return {{"games", result.games},       {"unfinished", result.unfinished},
          {"forfeits", result.forfeits}, {"complete", result.ending == Ending::complete},
          {"players", players},          {"lengths", lengths}};
}

std::string csv(const Game& game, const SeriesOptions& options, const SeriesResult& result) {
  const std::vector<std::string> seats = seat_names(game);
  std::string text = "player,who,seat,games,wins,draws,losses,mean_goal,seconds_per_choice\n";
  const auto line = [&](std::size_t player, const std::string& seat, const SeriesTally& tally) {
    std::string name = options.players[player].name;
    std::ranges::replace(name, ',', ' ');
    text +=
        fmt::format("{},{},{},{},{},{},{},{:.3f},{:.6f}\n", name, options.players[player].who, seat,
                    tally.games, tally.wins, tally.draws, tally.losses,
                    tally.games == 0 ? 0.0 : tally.goals / static_cast<double>(tally.games),
                    tally.choices == 0 ? 0.0 : tally.seconds / static_cast<double>(tally.choices));
  };
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    line(p, "all", result.by_player[p]);
    for (std::size_t seat = 0; seat < seats.size(); ++seat) {
      if (result.by_seat[p][seat].games > 0) line(p, seats[seat], result.by_seat[p][seat]);
    }
  }
  return text;
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

void print_line(const std::string& name, std::size_t width, const SeriesTally& tally,
                bool unicode) {
  const Share share =
      wilson(static_cast<double>(tally.wins) + 0.5 * static_cast<double>(tally.draws),
             static_cast<double>(tally.games));
  fmt::print("   {:<{}} {:>6} {:>6} {:>6} {:>7.1f} %  {}  {:>5.1f} to {:>5.1f} %  {:>6.1f}", name,
             width, tally.wins, tally.draws, tally.losses, 100 * share.share, bar(share, unicode),
             100 * share.least, 100 * share.most,
             tally.games == 0 ? 0.0 : tally.goals / static_cast<double>(tally.games));
  if (tally.choices > 0) {
    fmt::print("  {:>8.2f} ms", 1000 * tally.seconds / static_cast<double>(tally.choices));
  }
  fmt::print("\n");
}

void print_text(const Call& call, const Game& game, const SeriesOptions& options,
                const SeriesResult& result) {
  const bool unicode = call.style().unicode;
  const std::vector<std::string> seats = seat_names(game);
  fmt::print("{} matches of {}{}\n\n", result.games, game.name(),
             options.fixed_seats || seats.size() < 2 ? "" : ", seats changing from match to match");
  std::size_t width = 6;
  for (const SeriesPlayer& player : options.players)
    width = std::max(width, player.name.size() + 3);
  for (const std::string& seat : seats) width = std::max(width, seat.size() + 5);
  fmt::print("   {:<{}} {:>6} {:>6} {:>6} {:>9}  {:<24}  {:<16}  {:>6}  {:>11}\n", "player", width,
             "won", "drawn", "lost", "score", "", "95 % interval", "goal", "a choice");
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    print_line(options.players[p].name, width, result.by_player[p], unicode);
    for (std::size_t seat = 0; seat < seats.size() && !options.fixed_seats; ++seat) {
      if (result.by_seat[p][seat].games == 0) continue;
      print_line("  as " + seats[seat], width, result.by_seat[p][seat], unicode);
    }
  }
  std::uint64_t plies = 0;
  for (const auto& [length, games] : result.lengths) plies += length * games;
  if (result.games > 0) {
    fmt::print("\nlength in plies: mean {:.2f}, least {}, most {}\n",
               static_cast<double>(plies) / static_cast<double>(result.games),
               result.lengths.begin()->first, result.lengths.rbegin()->first);
  }
  if (result.unfinished > 0) fmt::print("broken off by --plies: {}\n", result.unfinished);
  if (result.forfeits > 0) fmt::print("forfeited by an illegal move: {}\n", result.forfeits);
  if (result.ending != Ending::complete) {
    fmt::print("{} after {} of {} matches\n", remark_on(result.ending), result.games,
               options.games);
  }
}

}  // namespace

Status series(const Call& call) {
  const auto opened = open_game(call);
  if (!opened) return Status::wrong_call;
  const Game& game = opened->game;
  SeriesOptions options;
  std::map<std::string, std::string> seats;
  std::map<std::string, std::string> names;
  Diagnostics faults = assign_to_roles(call, game, "seat", seats);
  faults.append(assign_to_roles(call, game, "name", names));
  if (!faults.empty()) return report(call, faults);
  std::map<std::string, int> times;  // a name is used
  for (const Role& role : game.roles()) {
    if (role.is_chance()) continue;
    const std::string who = seats[role.name()].empty() ? "random" : seats[role.name()];
    std::string name = names[role.name()].empty() ? who : names[role.name()];
    if (++times[name] > 1) name += fmt::format(" {}", times[name]);
    options.players.push_back({name, who, {}});
  }
  options.games = call.number("games").value_or(options.games);
  options.seed = *call.number("seed");
  options.plies = *call.number("plies");
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.fixed_seats = call.flag("fixed-seats");
  options.from = opened->start;
  options.budget = call.budget();
  const auto result = run_series(game, options);
  if (options.budget.progress) fmt::print(stderr, "\r\x1b[K");
  if (!result) return report(call, result.diagnostics());
  if (const auto file = call.text("csv")) {
    const Diagnostics failed = write_whole_file(*file, csv(game, options, *result));
    if (!failed.empty()) return report(call, failed);
  }
  if (call.json()) {
    print_json(document(game, options, *result));
  } else {
    print_text(call, game, options, *result);
  }
  return status_of(result->ending);
}

}  // namespace orchard::cli
