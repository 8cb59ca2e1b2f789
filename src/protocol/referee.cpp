#include "protocol/referee.hpp"

#include <fmt/chrono.h>
#include <fmt/core.h>

#include <algorithm>
#include <chrono>
#include <future>

#include "base/interruption.hpp"
#include "orchard/format.hpp"
#include "orchard/random.hpp"
#include "protocol/message.hpp"
#include "protocol/remote_seat.hpp"

namespace orchard::protocol {
namespace {

using Clock = std::chrono::steady_clock;

class Referee {
 public:
  Referee(const Game& game, const std::map<std::string, SeatedPlayer>& players,
          const RefereeOptions& options, Match match)
      : game_(game),
        players_(players),
        options_(options),
        match_(std::move(match)),
        random_(Random::stream(options.seed, game.roles().size())) {}

  Diagnostics seat(Watchdogs& watchdogs);
  Result<HostedMatch> play();

 private:
  struct Chosen {
    Move move;
    double seconds = 0;
    std::optional<Replacement> replaced{};
  };
  // A seat: one of both, or none for chance.
  struct Seat {
    std::unique_ptr<RemoteSeat> remote;
    std::unique_ptr<Opponent> local;
  };

  void begin();
  Chosen choose(const Role& role, Random random);
  Chosen by_remote(const Role& role, const std::vector<Move>& legal, Random& random);
  Chosen by_local(const Role& role, const std::vector<Move>& legal, Random& random);
  Diagnostics play_ply();
  MatchRecord head() const;
  template <class Do>
  void for_remotes(Do&& act);

  const Game& game_;
  const std::map<std::string, SeatedPlayer>& players_;
  const RefereeOptions& options_;
  Match match_;
  Random random_;
  std::vector<Seat> seats_;  // by role
  std::size_t last_remote_ = 0;
  std::optional<RecordWriter> writer_;
  HostedMatch result_;
};

Diagnostics Referee::seat(Watchdogs& watchdogs) {
  Diagnostics faults;
  for (const Role& role : game_.roles()) {
    Seat& seat = seats_.emplace_back();
    if (role.is_chance()) continue;
    const SeatedPlayer& player = players_.at(role.name());
    if (player.make) {
      const std::uint64_t seed = Random::stream(options_.seed, role.index()).below(~0ULL);
      seat.local = player.make(seed);
      continue;
    }
    auto remote = RemotePlayer::at(player.who, watchdogs);
    if (!remote) {
      faults.append(remote.diagnostics());
      continue;
    }
    last_remote_ = role.index();
    seat.remote = std::make_unique<RemoteSeat>(
        std::move(remote).value(), role,
        RemoteSeat::Terms{options_.match, options_.rules, options_.start_seconds,
                          options_.play_seconds, options_.stop});
  }
  return faults;
}

// All players somewhere else at the same time.
template <class Do>
void Referee::for_remotes(Do&& act) {
  std::vector<std::future<void>> waiting;
  for (Seat& seat : seats_) {
    if (!seat.remote) continue;
    waiting.push_back(std::async(std::launch::async, [&act, &seat] { act(*seat.remote); }));
  }
  for (auto& one : waiting) one.get();
}

void Referee::begin() {
  for_remotes([&](RemoteSeat& seat) { (void)seat.begin(match_, options_.start_seconds); });
}

Referee::Chosen Referee::by_remote(const Role& role, const std::vector<Move>& legal,
                                   Random& random) {
  const RemoteSeat::Said said = seats_[role.index()].remote->ask(match_);
  if (said.move) {
    const Move move = game_.move(*said.move);
    if (std::ranges::find(legal, move) != legal.end()) return {move, said.seconds};
  }
  constexpr std::size_t most_said = 200;
  Chosen result{legal[random.below(legal.size())], said.seconds};
  result.replaced = {said.move ? "illegal" : said.why, said.text.substr(0, most_said)};
  return result;
}

Referee::Chosen Referee::by_local(const Role& role, const std::vector<Move>& legal,
                                  Random& random) {
  if (legal.size() == 1) return {legal.front()};
  const auto begun = Clock::now();
  Situation situation = match_.situation(role, legal);
  situation.stop = options_.stop;
  // Something stays for the way back.
  constexpr double used = 0.95;
  situation.deadline = begun + std::chrono::duration_cast<Clock::duration>(
                                   std::chrono::duration<double>(used * options_.play_seconds));
  std::optional<Move> move;
  try {
    move = seats_[role.index()].local->choose(situation);
  } catch (const Interrupted&) {
    // The stop token asked for it; what is chosen does not matter any more.
  }
  const double seconds = std::chrono::duration<double>(Clock::now() - begun).count();
  const bool is_legal = move && std::ranges::find(legal, *move) != legal.end();
  if (is_legal && seconds <= options_.play_seconds) return {*move, seconds};
  Chosen result{legal[random.below(legal.size())], seconds};
  result.replaced = {is_legal || !move ? "late" : "illegal", move ? move->to_string() : ""};
  return result;
}

Referee::Chosen Referee::choose(const Role& role, Random random) {
  const std::vector<Move> legal = game_.legal(match_.position(), role);
  const Seat& seat = seats_[role.index()];
  if (seat.remote) return by_remote(role, legal, random);
  if (seat.local) return by_local(role, legal, random);
  return {legal[random.below(legal.size())]};
}

Diagnostics Referee::play_ply() {
  std::vector<std::future<Chosen>> waiting;
  for (const Role& role : game_.roles()) {
    const Random random(random_.below(~0ULL));
    // One of those elsewhere is waited for by this thread.
    const bool elsewhere = seats_[role.index()].remote && role.index() != last_remote_;
    waiting.push_back(std::async(elsewhere ? std::launch::async : std::launch::deferred,
                                 [this, &role, random] { return choose(role, random); }));
  }
  JointMove joint;
  PlyNotes notes;
  std::vector<Term> terms;
  for (const Role& role : game_.roles()) {
    const Chosen chosen = waiting[role.index()].get();
    joint.add(chosen.move);
    terms.push_back(chosen.move.term());
    const Seat& seat = seats_[role.index()];
    if (seat.remote || chosen.seconds > 0) notes.seconds[role.name()] = chosen.seconds;
    if (chosen.replaced) {
      notes.replaced[role.name()] = *chosen.replaced;
      ++result_.replaced[role.name()];
    } else {
      result_.slowest = std::max(result_.slowest, chosen.seconds);
    }
  }
  // A ply during which everything was to stop did not happen.
  if (options_.stop.stop_requested()) return {};
  if (game_.has_hidden_information()) {
    for (const Role& role : game_.roles()) {
      auto percepts = game_.percepts(match_.position(), joint, role);
      if (percepts && !percepts->empty()) notes.percepts[role.name()] = *percepts;
    }
  }
  if (Diagnostics faults = match_.play(joint); !faults.empty()) return faults;
  if (options_.record_positions) notes.position = match_.position().fluents();
  if (writer_) {
    if (Diagnostics faults = writer_->add(terms, notes); !faults.empty()) return faults;
  }
  result_.record.joints.push_back(std::move(terms));
  result_.record.notes.resize(result_.record.joints.size() - 1);
  result_.record.notes.push_back(std::move(notes));
  if (options_.watch) options_.watch(match_);
  return {};
}

MatchRecord Referee::head() const {
  MatchRecord record = record_of(match_);
  record.seed = options_.seed;
  record.began = fmt::format(
      "{:%Y-%m-%dT%H:%M:%SZ}",
      fmt::gmtime(std::chrono::system_clock::to_time_t(std::chrono::system_clock::now())));
  record.start_seconds = options_.start_seconds;
  record.play_seconds = options_.play_seconds;
  record.sizes = options_.sizes;
  if (options_.record_rules) record.description = options_.rules;
  for (const auto& [role, player] : players_) {
    record.players[role] = player.name;
    record.seats[role] = player.who;
  }
  if (options_.resumed) record.notes = options_.resumed->notes;
  return record;
}

Result<HostedMatch> Referee::play() {
  result_.record = head();
  if (!options_.record.empty()) {
    auto writer = RecordWriter::begin(options_.record, result_.record);
    if (!writer) return writer.diagnostics();
    writer_ = std::move(writer).value();
  }
  if (options_.watch) options_.watch(match_);
  begin();
  bool cut_short = false;
  try {
    while (!match_.over() && match_.ply() < options_.plies && !options_.stop.stop_requested()) {
      if (Diagnostics faults = play_ply(); !faults.empty()) {
        for_remotes([](RemoteSeat& seat) { seat.abort(); });
        return faults;
      }
    }
  } catch (const Interrupted&) {
    cut_short = true;  // in the middle of a step: that ply did not happen
  }
  result_.finished = match_.over();
  cut_short = cut_short || (match_.ply() < options_.plies && options_.stop.stop_requested());
  result_.interrupted = !result_.finished && cut_short;
  if (result_.interrupted) {
    for_remotes([](RemoteSeat& seat) { seat.abort(); });
  } else {
    for_remotes([&](RemoteSeat& seat) { seat.end(match_); });
  }
  // A match that was interrupted can be gone on with: its record has no end.
  if (!result_.interrupted) {
    const RecordedEnd end = result_.finished ? *end_of(match_) : RecordedEnd{"plies", {}, 0};
    if (writer_) {
      if (Diagnostics faults = writer_->end(end); !faults.empty()) return faults;
    }
    result_.record.end = end;
  }
  result_.outcome = outcome_of(game_, match_.position());
  for (const Role& role : game_.roles()) {
    Seat& seat = seats_[role.index()];
    if (seat.local && result_.finished) seat.local->match_ended(game_, role, match_.position());
  }
  return std::move(result_);
}

}  // namespace

Result<HostedMatch> host_match(const Game& game, const std::map<std::string, SeatedPlayer>& players,
                               const RefereeOptions& options, Watchdogs& watchdogs) {
  std::optional<Match> match(std::in_place, game);
  if (options.resumed) {
    auto replayed = replay(game, *options.resumed);
    if (!replayed) return replayed.diagnostics();
    match = std::move(replayed).value();
  }
  Referee referee(game, players, options, std::move(*match));
  if (Diagnostics faults = referee.seat(watchdogs); !faults.empty()) return faults;
  return referee.play();
}

Result<std::string> rules_on_the_wire(const std::string& path,
                                      const std::map<std::string, std::int64_t>& sizes) {
  FormatOptions options;
  options.to = Syntax::prefix;
  options.expand = true;
  options.sizes = sizes;
  return format_file(path, options);
}

}  // namespace orchard::protocol
