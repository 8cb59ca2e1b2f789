#include "report/tables.hpp"

#include <fmt/core.h>

#include <algorithm>

namespace orchard::report {

std::vector<std::string> seat_names(const Game& game) {
  std::vector<std::string> names;
  for (const Role& role : game.roles()) {
    if (!role.is_chance()) names.push_back(role.name());
  }
  return names;
}

bool plays_alone(const Game& game) {
  return seat_names(game).size() == 1;
}

Share score_of(const SeriesTally& tally) {
  return wilson(static_cast<double>(tally.wins) + 0.5 * static_cast<double>(tally.draws),
                static_cast<double>(tally.results()));
}

// Players from the strongest to the weakest.
std::vector<std::size_t> by_rating(const RoundRobinResult& result) {
  std::vector<std::size_t> order(result.ratings.size());
  for (std::size_t p = 0; p < order.size(); ++p) order[p] = p;
  std::ranges::stable_sort(order, [&](std::size_t a, std::size_t b) {
    return result.ratings[a].rating > result.ratings[b].rating;
  });
  return order;
}

namespace {

// A field of a line: in quotes if it holds what parts fields or lines.
std::string field(const std::string& text) {
  if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
  std::string result = "\"";
  for (const char c : text) {
    if (c == '"') result += '"';
    result += c;
  }
  return result + "\"";
}

}  // namespace

std::string csv_of(const Game& game, const Solution& solution, const Budget& budget,
                   Ending& ending) {
  std::string text = "position,role,value,best\n";
  const auto add = [&](const Solution::Choice& choice) {
    std::string best;
    for (const GoodMove& move : choice.best) {
      best += (best.empty() ? "" : " ") + move.move.to_string();
    }
    text += fmt::format("{},{},{:.6g},{}\n", field(choice.position.to_string()),
                        field(choice.role.name()), choice.value, field(best));
  };
  ending = solution.each_choice(game, add, budget);
  return text;
}

std::string csv_of(const Game& game, const SeriesOptions& options, const SeriesResult& result) {
  const std::vector<std::string> seats = seat_names(game);
  std::string text =
      "player,who,seat,games,wins,draws,losses,scored,stuck,mean_goal,seconds_per_choice\n";
  const auto line = [&](std::size_t player, const std::string& seat, const SeriesTally& tally) {
    const std::string name = field(options.players[player].name);
    text +=
        fmt::format("{},{},{},{},{},{},{},{},{},{:.3f},{:.6f}\n", name,
                    field(options.players[player].who), seat, tally.games, tally.wins, tally.draws,
                    tally.losses, tally.scored, tally.stuck, tally.mean_goal(),
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

std::string csv_of(const SeriesOptions& options, const RoundRobinResult& result) {
  std::string text = "player,who,games,wins,draws,losses,stuck,rating,least,most\n";
  for (const std::size_t p : by_rating(result)) {
    const SeriesTally& tally = result.by_player[p];
    const Rating& rating = result.ratings[p];
    text +=
        fmt::format("{},{},{},{},{},{},{},{:.1f},{:.1f},{:.1f}\n", field(options.players[p].name),
                    field(options.players[p].who), tally.games, tally.wins, tally.draws,
                    tally.losses, tally.stuck, rating.rating, rating.least, rating.most);
  }
  return text;
}

}  // namespace orchard::report
