#include "orchard/series.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <mutex>

#include "base/interruption.hpp"
#include "match/stored_series.hpp"
#include "orchard/random.hpp"
#include "threads/crew.hpp"

namespace orchard {
namespace {

class SeriesRun {
 public:
  SeriesRun(const Game& game, const SeriesOptions& options) : game_(game), options_(options) {
    for (const Role& role : game.roles()) {
      if (!role.is_chance()) seats_.push_back(role);
    }
  }

  Diagnostics check() const;
  Result<SeriesResult> run();

 private:
  std::size_t player_at(std::uint64_t number, std::size_t seat) const {
    return options_.fixed_seats ? seat : (seat + number) % seats_.size();
  }
  struct Seating;
  struct Shared;
  Seating seated(std::uint64_t number) const;
  JointMove chosen(Match& match, const Seating& seating, PlayedMatch& played) const;
  std::string record_of_match(const Match& match, const Seating& seating,
                              const PlayedMatch& played) const;
  Result<PlayedMatch> play(std::uint64_t number) const;
  void work(Shared& shared) const;
  std::string key() const;
  static void compare(const PlayedMatch& played, SeriesResult& result);
  void count(std::uint64_t number, const PlayedMatch& played, SeriesResult& result) const;

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

// Who sits where in one match.
struct SeriesRun::Seating {
  std::vector<std::unique_ptr<Opponent>> opponents;  // by role
  std::vector<std::size_t> players;                  // by role; as many as there are seats: chance
};

SeriesRun::Seating SeriesRun::seated(std::uint64_t number) const {
  Seating seating;
  seating.players.resize(game_.roles().size(), seats_.size());
  const auto seed_of = [&](std::size_t role) {
    return Random::stream(options_.seed, number * game_.roles().size() + role).below(~0ULL);
  };
  for (const Role& role : game_.roles()) {
    seating.opponents.push_back(random_opponent(seed_of(role.index())));
  }
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    const std::size_t player = player_at(number, seat);
    const std::size_t role = seats_[seat].index();
    const SeriesPlayer& sitting = options_.players[player];
    const std::uint64_t seed = seed_of(role);
    seating.players[role] = player;
    seating.opponents[role] =
        sitting.make ? sitting.make(seed) : make_opponent(sitting.who, seed).value();
  }
  return seating;
}

// The moves of one ply; choices, times and a forfeit are entered in `played`.
JointMove SeriesRun::chosen(Match& match, const Seating& seating, PlayedMatch& played) const {
  using std::chrono::duration;
  using std::chrono::steady_clock;
  JointMove joint;
  for (const Role& role : game_.roles()) {
    const std::vector<Move> legal = game_.legal(match.position(), role);
    if (legal.size() == 1) {
      joint.add(legal.front());
      continue;
    }
    const auto begun = steady_clock::now();
    Situation situation = match.situation(role, legal);
    situation.stop = options_.budget.stop;
    if (options_.move_seconds) {
      situation.deadline = begun + std::chrono::duration_cast<steady_clock::duration>(
                                       duration<double>(*options_.move_seconds));
    }
    const Move move = seating.opponents[role.index()]->choose(situation);
    joint.add(move);
    const std::size_t player = seating.players[role.index()];
    if (player == seats_.size()) continue;  // chance
    const double seconds = duration<double>(steady_clock::now() - begun).count();
    played.seconds[player] += seconds;
    ++played.choices[player];
    // Of several that forfeit at once the first one does.
    if (played.forfeited_by) continue;
    played.late = options_.move_seconds && seconds > *options_.move_seconds;
    if (played.late || std::ranges::find(legal, move) == legal.end()) {
      played.forfeited_by = player;
    }
  }
  return joint;
}

// The match as a record; how it ended if not by the rules.
std::string SeriesRun::record_of_match(const Match& match, const Seating& seating,
                                       const PlayedMatch& played) const {
  MatchRecord record = record_of(match);
  record.seed = options_.seed;
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    const SeriesPlayer& player = options_.players[seating.players[seats_[seat].index()]];
    record.players[seats_[seat].name()] = player.name;
    record.seats[seats_[seat].name()] = player.who;
  }
  if (!match.over()) record.end = RecordedEnd{played.forfeited_by ? "forfeit" : "plies", {}, 0};
  return to_json_lines(record, match);
}

// Leaves by `Interrupted` in the middle of a match: what was begun and not ended says nothing.
Result<PlayedMatch> SeriesRun::play(std::uint64_t number) const {
  Match match(game_, options_.from);
  const Seating seating = seated(number);
  PlayedMatch played;
  played.goals.resize(seats_.size());
  played.standings.resize(seats_.size(), Standing::none);
  played.seconds.resize(seats_.size());
  played.choices.resize(seats_.size());
  while (!match.over() && match.ply() < options_.plies && !played.forfeited_by) {
    const JointMove joint = chosen(match, seating, played);
    end_if_interrupted();
    if (played.forfeited_by) break;
    if (Diagnostics faults = match.play(joint); !faults.empty()) return faults;
  }
  played.plies = match.ply();
  played.finished = match.over();
  if (options_.moves) played.record = record_of_match(match, seating, played);
  const Outcome outcome = outcome_of(game_, match.position());
  for (const Role& role : seats_) {
    const std::size_t player = seating.players[role.index()];
    played.goals[player] = game_.goal(match.position(), role).value_or(0);
    if (played.forfeited_by) {
      played.standings[player] = played.forfeited_by == player ? Standing::lost : Standing::won;
    } else if (played.finished) {
      played.standings[player] = outcome.standing(role);
      seating.opponents[role.index()]->match_ended(game_, role, match.position());
    }
  }
  return played;
}

// Who did better than whom.
void SeriesRun::compare(const PlayedMatch& played, SeriesResult& result) {
  const auto has_result = [](Standing one) {
    return one != Standing::none && one != Standing::stuck;
  };
  if (!std::ranges::all_of(played.standings, has_result)) return;
  const std::size_t players = played.goals.size();
  for (std::size_t a = 0; a < players; ++a) {
    for (std::size_t b = 0; b < players; ++b) {
      if (a == b) continue;
      double better = played.goals[a] > played.goals[b]   ? 1
                      : played.goals[a] < played.goals[b] ? 0
                                                          : 0.5;
      if (played.forfeited_by)
        better = played.forfeited_by == b ? 1 : played.forfeited_by == a ? 0 : 0.5;
      result.better[a][b] += better;
    }
  }
}

// What makes two series the same.
std::string SeriesRun::key() const {
  std::string text = fmt::format("{} seed {} plies {} {}", game_.digest(), options_.seed,
                                 options_.plies, options_.fixed_seats ? "fixed" : "changing");
  if (options_.move_seconds) text += fmt::format(" within {} s", *options_.move_seconds);
  for (const SeriesPlayer& player : options_.players) {
    text += fmt::format("\n{}\t{}", player.name, player.who);
    if (!player.content.empty()) text += "\t" + player.content;
  }
  if (options_.from && *options_.from != game_.initial()) {
    text += "\n" + options_.from->to_string();
  }
  return text;
}

void SeriesRun::count(std::uint64_t number, const PlayedMatch& played, SeriesResult& result) const {
  ++result.games;
  ++result.lengths[played.plies];
  if (played.forfeited_by) {
    ++result.forfeits;
    result.late += played.late ? 1 : 0;
  } else if (!played.finished) {
    ++result.unfinished;
  } else if (std::ranges::count(played.standings, Standing::stuck) > 0) {
    ++result.stuck;
  } else if (std::ranges::count(played.standings, Standing::none) > 0) {
    ++result.without_goals;
  }
  compare(played, result);
  for (std::size_t seat = 0; seat < seats_.size(); ++seat) {
    const std::size_t player = player_at(number, seat);
    for (SeriesTally* tally : {&result.by_player[player], &result.by_seat[player][seat]}) {
      ++tally->games;
      tally->seconds += played.seconds[player];
      tally->choices += played.choices[player];
      tally->count(played.standings[player], played.forfeited_by ? 0 : played.goals[player]);
    }
  }
}

// What the threads of a series have in common.
struct SeriesRun::Shared {
  explicit Shared(const Budget& budget) : clock(budget) {}

  std::map<std::uint64_t, PlayedMatch> known;  // of the store
  std::optional<StoredSeries> stored;
  std::atomic<std::uint64_t> next = 0;

  // Guards what follows.
  std::mutex mutex;
  Stopwatch clock;
  SeriesResult result;
  // Played, but not counted yet: sums do not depend on who finished first.
  std::map<std::uint64_t, PlayedMatch> waiting;
  std::uint64_t counted = 0;
  std::optional<Ending> ending;
  Diagnostics faults;
};

void SeriesRun::work(Shared& shared) const {
  const auto fail = [&](const Diagnostics& faults) {
    const std::lock_guard lock(shared.mutex);
    if (shared.faults.empty()) shared.faults = faults;
    shared.ending = Ending::stopped;
  };
  for (std::uint64_t number = shared.next++; number < options_.games; number = shared.next++) {
    {
      const std::lock_guard lock(shared.mutex);
      if (!shared.ending)
        shared.ending = shared.clock.check(shared.counted + shared.waiting.size());
      if (shared.ending) return;
    }
    PlayedMatch played;
    if (const auto known = shared.known.find(number); known != shared.known.end()) {
      played = known->second;
    } else {
      try {
        auto match = play(number);
        if (!match) return fail(match.diagnostics());
        played = std::move(match).value();
      } catch (const Interrupted& interrupted) {
        const std::lock_guard lock(shared.mutex);
        shared.ending = interrupted.ending;
        return;
      }
      if (shared.stored) {
        const Diagnostics failed = shared.stored->add(number, played);
        if (!failed.empty()) return fail(failed);
      }
    }
    const std::lock_guard lock(shared.mutex);
    shared.waiting.emplace(number, std::move(played));
    for (auto first = shared.waiting.begin();
         first != shared.waiting.end() && first->first == shared.counted;
         first = shared.waiting.erase(first)) {
      count(shared.counted++, first->second, shared.result);
    }
  }
}

Result<SeriesResult> SeriesRun::run() {
  const Interruption interruption(options_.budget);
  Shared shared(options_.budget);
  SeriesResult& result = shared.result;
  result.by_player.resize(seats_.size());
  result.by_seat.assign(seats_.size(), std::vector<SeriesTally>(seats_.size()));
  result.better.assign(seats_.size(), std::vector<double>(seats_.size(), 0));
  if (options_.store) {
    std::vector<std::string> names;
    for (const SeriesPlayer& player : options_.players) names.push_back(player.name);
    auto opened = StoredSeries::open(*options_.store, key(), game_.name(), names);
    if (!opened) return opened.diagnostics();
    shared.stored = *opened;
    auto matches = shared.stored->matches();
    if (!matches) return matches.diagnostics();
    shared.known = std::move(matches).value();
    std::erase_if(shared.known, [&](const auto& match) {
      return match.first >= options_.games || match.second.goals.size() != seats_.size();
    });
    result.stored = shared.known.size();
  }
  Crew(options_.threads).all([&](std::size_t) { work(shared); });
  if (!shared.faults.empty()) return shared.faults;
  for (const auto& [number, match] : shared.waiting) count(number, match, result);
  result.ending = shared.ending.value_or(Ending::complete);
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

namespace {

void add(const SeriesTally& from, SeriesTally& to) {
  to.add(from);
  to.games += from.games;
  to.seconds += from.seconds;
  to.choices += from.choices;
}

// The next choice of so many numbers below `count`, ascending; false after the last one.
bool next_choice(std::vector<std::size_t>& chosen, std::size_t count) {
  for (std::size_t i = chosen.size(); i-- > 0;) {
    if (chosen[i] + (chosen.size() - i) >= count) continue;
    ++chosen[i];
    for (std::size_t j = i + 1; j < chosen.size(); ++j) chosen[j] = chosen[j - 1] + 1;
    return true;
  }
  return false;
}

}  // namespace

Result<RoundRobinResult> run_round_robin(const Game& game, const SeriesOptions& options) {
  const auto seats = static_cast<std::size_t>(
      std::ranges::count_if(game.roles(), [](const Role& role) { return !role.is_chance(); }));
  const std::size_t players = options.players.size();
  if (seats < 2 || players <= seats) {
    return plain_error(
        "wrong-players",
        fmt::format("{} players for a round robin of a game of {} roles", players, seats),
        "name more players than roles, of a game of two or more");
  }
  RoundRobinResult result;
  result.by_player.resize(players);
  result.better.assign(players, std::vector<double>(players, 0));
  std::vector<std::vector<double>> met(players, std::vector<double>(players, 0));
  std::vector<std::size_t> chosen(seats);
  for (std::size_t i = 0; i < seats; ++i) chosen[i] = i;
  do {
    SeriesOptions one = options;
    one.players.clear();
    for (const std::size_t player : chosen) one.players.push_back(options.players[player]);
    const auto series = run_series(game, one);
    if (!series) return series.diagnostics();
    for (std::size_t a = 0; a < seats; ++a) {
      add(series->by_player[a], result.by_player[chosen[a]]);
      for (std::size_t b = 0; b < seats; ++b) {
        result.better[chosen[a]][chosen[b]] += series->better[a][b];
        if (a != b) met[chosen[a]][chosen[b]] += series->better[a][b] + series->better[b][a];
      }
    }
    result.games += series->games;
    result.stored += series->stored;
    result.unfinished += series->unfinished;
    result.stuck += series->stuck;
    result.without_goals += series->without_goals;
    result.forfeits += series->forfeits;
    result.late += series->late;
    result.ending = series->ending;
  } while (result.ending == Ending::complete && next_choice(chosen, players));
  std::vector<Pairing> pairings;
  for (std::size_t a = 0; a < players; ++a) {
    for (std::size_t b = a + 1; b < players; ++b) {
      pairings.push_back({a, b, result.better[a][b], met[a][b]});
    }
  }
  result.ratings = rate(players, pairings);
  return result;
}

}  // namespace orchard
