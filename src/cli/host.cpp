// Matches between players elsewhere and here, over the open match protocol: `orchard host`.
#include <fmt/core.h>

#include <algorithm>
#include <filesystem>

#include "base/counted.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "cli/seats.hpp"
#include "protocol/board_server.hpp"
#include "protocol/hosted_series.hpp"
#include "protocol/message_server.hpp"

namespace orchard::cli {
namespace {

// Those of --player, else of --seat and --name.
Diagnostics add_players(const Call& call, const Game& game,
                        protocol::HostedSeriesOptions& options) {
  auto named = players_of(call, game);
  if (!named) return named.diagnostics();
  Diagnostics faults;
  for (const NamedPlayer& player : *named) {
    protocol::SeatedPlayer seated{player.name, player.who, {}};
    if (!player.who.starts_with("http://")) {
      auto maker = maker_of(game, player.who);
      if (maker) {
        seated.make = *maker;
      } else {
        faults.append(maker.diagnostics());
      }
    } else if (const auto address = http::read_address(player.who); !address) {
      faults.append(address.diagnostics());
    }
    options.players.push_back(std::move(seated));
  }
  return faults;
}

// "1 late move", "3 illegal moves".
std::string replaced_in_words(const std::map<std::string, std::uint64_t>& replaced) {
  std::string text;
  for (const auto& [why, moves] : replaced) {
    if (!text.empty()) text += ", ";
    text += fmt::format("{} {}", moves, why);
  }
  return text;
}

void print_match(const Game& game, std::uint64_t number, const protocol::HostedMatch& match) {
  print("match {}: {}, {}", number,
        match.interrupted ? "interrupted"
        : match.finished  ? describe(game, match.outcome, match.record.players)
                          : "broken off by --plies",
        counted(match.record.joints.size(), "ply", "plies"));
  for (const auto& [role, moves] : match.replaced) {
    print("; {} of {} made by the host", counted(moves, "move", "moves"),
          match.record.players.at(role));
  }
  print("\n");
}

void print_text(const protocol::HostedSeriesOptions& options,
                const protocol::HostedSeriesResult& result) {
  if (result.games == 0) {
    print("\nno match was over, so that there is nothing to add up\n");
    if (result.unfinished > 0) print("broken off by --plies: {}\n", result.unfinished);
    return;
  }
  std::size_t width = 6;
  for (const auto& player : options.players) width = std::max(width, player.name.size());
  const bool rated = !result.ratings.empty();
  print("\n   {:<{}}  {:>6} {:>6} {:>6}  {:>9}{}   made by the host\n", "player", width, "won",
        "drawn", "lost", "mean goal", rated ? "  rating  95 % interval " : "");
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    const Tally& tally = result.by_player[p];
    print("   {:<{}}  {:>6} {:>6} {:>6}  {:>9.1f}", options.players[p].name, width, tally.wins,
          tally.draws + tally.scored, tally.losses, tally.mean_goal());
    if (rated) {
      const Rating& rating = result.ratings[p];
      print("  {:>+6.0f}  {:<15}", rating.rating,
            fmt::format("{:+.0f} to {:+.0f}", rating.least, rating.most));
    }
    const std::string replaced = replaced_in_words(result.replaced[p]);
    print("   {}\n", replaced.empty() ? "nothing" : replaced);
  }
  print("\n{}, {:.1f} plies each; the slowest reply in time took {:.0f} ms\n",
        counted(result.games, "match", "matches"),
        static_cast<double>(result.plies) / static_cast<double>(result.games),
        1000 * result.slowest);
  if (result.unfinished > 0) print("broken off by --plies: {}\n", result.unfinished);
}

Json document_of_series(const protocol::HostedSeriesOptions& options,
                        const protocol::HostedSeriesResult& result) {
  Json players = Json::array();
  for (std::size_t p = 0; p < options.players.size(); ++p) {
    const Tally& tally = result.by_player[p];
    Json player = {{"name", options.players[p].name},
                   {"who", options.players[p].who},
                   {"wins", tally.wins},
                   {"draws", tally.draws},
                   {"losses", tally.losses},
                   {"scored", tally.scored},
                   {"stuck", tally.stuck},
                   {"mean_goal", tally.mean_goal()},
                   {"replaced", result.replaced[p]}};
    if (!result.ratings.empty()) {
      const Rating& rating = result.ratings[p];
      player["rating"] = {
          {"rating", rating.rating}, {"least", rating.least}, {"most", rating.most}};
    }
    players.push_back(std::move(player));
  }
  return {{"matches", result.games},
          {"unfinished", result.unfinished},
          {"plies", result.plies},
          {"slowest_seconds", result.slowest},
          {"interrupted", result.interrupted},
          {"players", std::move(players)}};
}

}  // namespace

Status host(const Call& call) {
  const auto loaded = load_game(call);
  if (!loaded) return Status::wrong_call;
  const Game& game = *loaded;
  const auto limits = load_options(call);
  if (!limits) return report(call, limits.diagnostics());
  auto rules = protocol::rules_on_the_wire(call.game, limits->sizes);
  if (!rules) return report(call, rules.diagnostics());
  protocol::HostedSeriesOptions options;
  if (const Diagnostics faults = add_players(call, game, options); !faults.empty()) {
    return report(call, faults);
  }
  options.fixed_seats = call.flag("fixed-seats") || !call.texts("seat").empty();
  options.games = *call.number("games");
  options.at_once = static_cast<unsigned>(*call.number("at-once"));
  options.referee.match = std::filesystem::path(game.name()).stem().string();
  // An ID that players have not heard before.
  options.referee.match += fmt::format(
      "-{:x}", std::chrono::system_clock::now().time_since_epoch() / std::chrono::milliseconds(1));
  options.referee.rules = std::move(rules).value();
  options.referee.start_seconds = *call.seconds("start-seconds");
  options.referee.play_seconds = *call.seconds("play-seconds");
  options.referee.plies = *call.number("plies");
  options.referee.seed = *call.number("seed");
  options.referee.record_positions = call.flag("with-positions");
  options.referee.record_rules = call.flag("with-rules");
  options.referee.sizes = limits->sizes;
  options.referee.stop = call.stop;
  if (const auto folder = call.text("records")) {
    std::error_code error;
    std::filesystem::create_directories(*folder, error);
    options.folder = *folder;
  }
  if (const auto file = call.text("resume")) {
    const auto record = read_record(*file, {.cut_line = true});
    if (!record) return report(call, record.diagnostics());
    if (record->end) {
      return report(call, plain_error("wrong-call", fmt::format("{} has come to its end", *file),
                                      "resume a match that was broken off"));
    }
    options.referee.resumed = *record;
    if (options.games > 1) {
      return report(
          call, plain_error("wrong-call", "--resume goes on with one match", "leave out --games"));
    }
  }
  if (const auto file = call.text("record")) {
    if (options.games > 1 || !options.folder.empty()) {
      return report(call, plain_error("wrong-call", "--record is of one match",
                                      "give --records DIR for several"));
    }
    options.referee.record = *file;
  }
  std::optional<protocol::BoardServer> board;
  if (call.flag("board")) {
    const auto picture = picture_of(call, game);
    if (!picture) return Status::wrong_call;
    board.emplace(game, *picture);
    const int port = static_cast<int>(*call.number("board"));
    if (const Diagnostics faults = board->begin(port); !faults.empty()) {
      return report(call, faults);
    }
    remark("the boards are at {}\n", board->address());
    options.watch = [&](std::uint64_t number, const Match& match, const auto& names) {
      board->show(number, match, names);
    };
  }
  const bool tells = !call.json() && !call.flag("quiet");
  options.ended = [&](std::uint64_t number, const protocol::HostedMatch& match) {
    if (board) board->ended(number, match);
    if (tells) print_match(game, number, match);
  };
  const auto result = protocol::host_series(game, options);
  if (!result) return report(call, result.diagnostics());
  if (call.json()) {
    print_json(document_of_series(options, *result));
  } else {
    print_text(options, *result);
  }
  return result->interrupted ? Status::unfinished : Status::done;
}

}  // namespace orchard::cli
