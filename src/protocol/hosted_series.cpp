#include "protocol/hosted_series.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <atomic>
#include <filesystem>

#include "http/listening.hpp"
#include "orchard/random.hpp"
#include "threads/crew.hpp"

namespace orchard::protocol {
namespace {

class HostedSeries {
 public:
  HostedSeries(const Game& game, const HostedSeriesOptions& options)
      : game_(game), options_(options) {
    for (const Role& role : game.roles()) {
      if (!role.is_chance()) seats_.push_back(role);
    }
  }

  Result<HostedSeriesResult> run();

 private:
  void choose_players(std::size_t from, std::vector<std::size_t>& chosen);
  std::vector<std::size_t> seated(std::uint64_t number) const;
  Result<HostedMatch> play(std::uint64_t number);
  void work();
  void count(std::uint64_t number, const HostedMatch& match);
  void rate_players();

  const Game& game_;
  const HostedSeriesOptions& options_;
  std::vector<Role> seats_;
  std::vector<std::vector<std::size_t>> meetings_;  // players, as many as there are seats
  std::atomic<std::uint64_t> next_ = 0;
  Watchdogs watchdogs_;

  std::mutex mutex_;  // guards what follows
  HostedSeriesResult result_;
  std::vector<std::vector<double>> met_;
  Diagnostics faults_;
};

// Every choice of as many players as there are seats.
void HostedSeries::choose_players(std::size_t from, std::vector<std::size_t>& chosen) {
  if (chosen.size() == seats_.size()) {
    meetings_.push_back(chosen);
    return;
  }
  for (std::size_t player = from; player < options_.players.size(); ++player) {
    chosen.push_back(player);
    choose_players(player + 1, chosen);
    chosen.pop_back();
  }
}

// By seat, who plays.
std::vector<std::size_t> HostedSeries::seated(std::uint64_t number) const {
  const std::vector<std::size_t>& meeting = meetings_[number / options_.games];
  const std::uint64_t round = options_.fixed_seats ? 0 : number % options_.games;
  std::vector<std::size_t> result(seats_.size());
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    result[(seat + round) % seats_.size()] = meeting[seat];
  }
  return result;
}

Result<HostedMatch> HostedSeries::play(std::uint64_t number) {
  const std::vector<std::size_t> players = seated(number);
  std::map<std::string, SeatedPlayer> by_role;
  std::map<std::string, std::string> names;
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    by_role[seats_[seat].name()] = options_.players[players[seat]];
    names[seats_[seat].name()] = options_.players[players[seat]].name;
  }
  RefereeOptions referee = options_.referee;
  const std::uint64_t matches = meetings_.size() * options_.games;
  if (matches > 1) {
    referee.match = fmt::format("{}-{}", options_.referee.match, number + 1);
    referee.seed = Random::stream(options_.referee.seed, number).below(~0ULL);
  }
  if (!options_.folder.empty()) {
    referee.record =
        (std::filesystem::path(options_.folder) / fmt::format("{}.jsonl", referee.match)).string();
  }
  if (options_.watch) {
    referee.watch = [&, number](const Match& match) { options_.watch(number + 1, match, names); };
  }
  return host_match(game_, by_role, referee, watchdogs_);
}

void HostedSeries::work() {
  const std::uint64_t all = meetings_.size() * options_.games;
  for (std::uint64_t number = next_++; number < all; number = next_++) {
    {
      const std::lock_guard lock(mutex_);
      if (!faults_.empty() || result_.interrupted) return;
    }
    auto match = play(number);
    const std::lock_guard lock(mutex_);
    if (!match) {
      if (faults_.empty()) faults_ = match.diagnostics();
      return;
    }
    if (match->interrupted) {
      result_.interrupted = true;
    } else {
      count(number, *match);
    }
    if (options_.ended) options_.ended(number + 1, *match);
  }
}

void HostedSeries::count(std::uint64_t number, const HostedMatch& match) {
  ++result_.games;
  result_.plies += match.record.joints.size();
  result_.unfinished += match.finished ? 0 : 1;
  result_.slowest = std::max(result_.slowest, match.slowest);
  const std::vector<std::size_t> players = seated(number);
  std::vector<double> goals;
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    const std::string& role = seats_[seat].name();
    const auto& values = match.outcome.values[seats_[seat].index()];
    const auto goal = values.size() == 1 ? values.front().number() : std::nullopt;
    goals.push_back(static_cast<double>(goal.value_or(0)));
    if (match.finished) {
      result_.by_player[players[seat]].count(match.outcome.standing(seats_[seat]), goals.back());
    }
    for (const PlyNotes& notes : match.record.notes) {
      const auto replaced = notes.replaced.find(role);
      if (replaced == notes.replaced.end()) continue;
      ++result_.replaced[players[seat]][replaced->second.why];
    }
  }
  if (!match.finished || !match.outcome.stuck.empty()) return;
  for (std::size_t a = 0; a < seats_.size(); ++a) {
    for (std::size_t b = 0; b < seats_.size(); ++b) {
      if (a == b) continue;
      const double better = goals[a] > goals[b] ? 1 : goals[a] < goals[b] ? 0 : 0.5;
      result_.better[players[a]][players[b]] += better;
      met_[players[a]][players[b]] += 1;
    }
  }
}

void HostedSeries::rate_players() {
  const std::size_t players = options_.players.size();
  if (players < 2) return;
  std::vector<Pairing> pairings;
  for (std::size_t a = 0; a < players; ++a) {
    for (std::size_t b = a + 1; b < players; ++b) {
      pairings.push_back({a, b, result_.better[a][b], met_[a][b]});
    }
  }
  result_.ratings = rate(players, pairings);
}

Result<HostedSeriesResult> HostedSeries::run() {
  const std::size_t players = options_.players.size();
  if (players < seats_.size()) {
    return plain_error("wrong-players",
                       fmt::format("{} players for {} seats", players, seats_.size()),
                       "name one for each role but chance");
  }
  for (const SeatedPlayer& player : options_.players) {
    if (player.make) continue;
    if (const auto address = http::read_address(player.who); !address) return address.diagnostics();
  }
  std::vector<std::size_t> chosen;
  choose_players(0, chosen);
  result_.by_player.resize(players);
  result_.replaced.resize(players);
  result_.better.assign(players, std::vector<double>(players, 0));
  met_ = result_.better;
  {
    // Whoever is waited for when everything is to end is waited for no longer.
    const std::stop_callback when_asked(options_.referee.stop, [this] { watchdogs_.end(); });
    Crew(options_.at_once).all([this](std::size_t) { work(); });
  }
  if (!faults_.empty()) return faults_;
  rate_players();
  return std::move(result_);
}

}  // namespace

Result<HostedSeriesResult> host_series(const Game& game, const HostedSeriesOptions& options) {
  return HostedSeries(game, options).run();
}

}  // namespace orchard::protocol
