#include "orchard/series.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <mutex>
#include <thread>

#include "orchard/random.hpp"

namespace orchard {
namespace {

// What one match adds, by player.
struct Played {
  std::uint64_t plies = 0;
  bool finished = false;
  std::optional<std::size_t> forfeited_by;  // player
  std::vector<double> goals;
  std::vector<bool> best;
  std::vector<double> seconds;
  std::vector<std::uint64_t> choices;
};

class SeriesRun {
 public:
  SeriesRun(const Game& game, const SeriesOptions& options) : game_(game), options_(options) {
    for (const Role& role : game.roles()) {
      if (!role.is_chance()) seats_.push_back(role);
    }
  }

  Diagnostics check() const;
  SeriesResult run();

 private:
  std::size_t player_at(std::uint64_t number, std::size_t seat) const {
    return options_.fixed_seats ? seat : (seat + number) % seats_.size();
  }
  Played play(std::uint64_t number) const;
  void count(std::uint64_t number, const Played& played, SeriesResult& result) const;

  const Game& game_;
  const SeriesOptions& options_;
  std::vector<Role> seats_;
};

Diagnostics SeriesRun::check() const {
  Diagnostics faults;
  if (options_.players.size() != seats_.size()) {
    faults.add(
        plain_error("wrong-players",
                    fmt::format("{} players for {} roles", options_.players.size(), seats_.size()),
                    "give one for each role but chance"));
    return faults;
  }
  for (const SeriesPlayer& player : options_.players) {
    if (player.make) continue;
    if (const auto made = make_opponent(player.who, 1); !made) faults.append(made.diagnostics());
  }
  return faults;
}

Played SeriesRun::play(std::uint64_t number) const {
  Match match(game_, options_.from);
  std::vector<std::unique_ptr<Opponent>> opponents(game_.roles().size());
  std::vector<std::size_t> players(game_.roles().size(), seats_.size());
  for (const Role& role : game_.roles()) {
    const std::uint64_t seed =
        Random::stream(options_.seed, number * game_.roles().size() + role.index()).below(~0ULL);
    opponents[role.index()] = random_opponent(seed);
  }
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    const std::size_t player = player_at(number, seat);
    const std::size_t role = seats_[seat].index();
    players[role] = player;
    const std::uint64_t seed =
        Random::stream(options_.seed, number * game_.roles().size() + role).below(~0ULL);
    const SeriesPlayer& sitting = options_.players[player];
    opponents[role] = sitting.make ? sitting.make(seed) : make_opponent(sitting.who, seed).value();
  }
  Played played;
  played.goals.resize(seats_.size());
  played.best.resize(seats_.size());
  played.seconds.resize(seats_.size());
  played.choices.resize(seats_.size());
  while (!match.over() && match.ply() < options_.plies && !played.forfeited_by) {
    JointMove joint;
    for (const Role& role : game_.roles()) {
      const std::vector<Move> legal = game_.legal(match.position(), role);
      if (legal.size() == 1) {
        joint.add(legal.front());
        continue;
      }
      const auto begun = std::chrono::steady_clock::now();
      const Move move = opponents[role.index()]->choose(match.situation(role, legal));
      joint.add(move);
      const std::size_t player = players[role.index()];
      if (player == seats_.size()) continue;  // chance
      played.seconds[player] +=
          std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
      ++played.choices[player];
      if (std::ranges::find(legal, move) == legal.end()) played.forfeited_by = player;
    }
    if (!played.forfeited_by) (void)match.play(joint);
  }
  played.plies = match.ply();
  played.finished = match.over();
  const Outcome outcome = outcome_of(game_, match.position());
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    const Role& role = seats_[seat];
    const std::size_t player = players[role.index()];
    played.goals[player] = game_.goal(match.position(), role).value_or(0);
    played.best[player] = std::ranges::find(outcome.best, role) != outcome.best.end();
    if (played.finished) {
      opponents[role.index()]->match_ended(game_, role, match.position());
    }
  }
  return played;
}

void SeriesRun::count(std::uint64_t number, const Played& played, SeriesResult& result) const {
  ++result.games;
  ++result.lengths[played.plies];
  if (played.forfeited_by) {
    ++result.forfeits;
  } else if (!played.finished) {
    ++result.unfinished;
  }
  const auto winners = std::ranges::count(played.best, true);
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    const std::size_t player = player_at(number, seat);
    for (SeriesTally* tally : {&result.by_player[player], &result.by_seat[player][seat]}) {
      ++tally->games;
      tally->seconds += played.seconds[player];
      tally->choices += played.choices[player];
      if (played.forfeited_by) {
        ++(*played.forfeited_by == player ? tally->losses : tally->wins);
        continue;
      }
      if (!played.finished) continue;
      tally->goals += played.goals[player];
      if (!played.best[player]) {
        ++tally->losses;
      } else {
        ++(winners == 1 ? tally->wins : tally->draws);
      }
    }
  }
}

SeriesResult SeriesRun::run() {
  SeriesResult result;
  result.by_player.resize(seats_.size());
  result.by_seat.assign(seats_.size(), std::vector<SeriesTally>(seats_.size()));
  std::vector<std::optional<Played>> played(options_.games);
  std::atomic<std::uint64_t> next = 0;
  std::atomic<std::uint64_t> done = 0;
  std::mutex mutex;  // guards the clock and the ending
  Stopwatch clock(options_.budget);
  std::optional<Ending> ending;
  const auto work = [&] {
    for (std::uint64_t number = next++; number < options_.games; number = next++) {
      {
        const std::lock_guard lock(mutex);
        if (!ending) ending = clock.check(done);
        if (ending) return;
      }
      played[number] = play(number);
      ++done;
    }
  };
  {
    std::vector<std::jthread> threads;
    for (unsigned t = 1; t < options_.threads; ++t) threads.emplace_back(work);
    work();
  }
  // In the order of the matches, so that sums do not depend on who finished first.
  for (std::uint64_t number = 0; number < options_.games; ++number) {
    if (played[number]) count(number, *played[number], result);
  }
  result.ending = ending.value_or(Ending::complete);
  return result;
}

}  // namespace

Share wilson(double successes, double trials) {
  if (trials <= 0) return {};
  constexpr double z = 1.959964;
  const double share = successes / trials;
  const double spread = z * z / trials;
  const double middle = (share + spread / 2) / (1 + spread);
  const double half =
      z * std::sqrt(share * (1 - share) / trials + spread / (4 * trials)) / (1 + spread);
  return {share, std::max(0.0, middle - half), std::min(1.0, middle + half)};
}

Result<SeriesResult> run_series(const Game& game, const SeriesOptions& options) {
  SeriesRun series(game, options);
  if (Diagnostics faults = series.check(); !faults.empty()) return faults;
  return series.run();
}

}  // namespace orchard
