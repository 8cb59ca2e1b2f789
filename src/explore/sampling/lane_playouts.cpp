#include "explore/sampling/lane_playouts.hpp"

#include <algorithm>
#include <atomic>
#include <mutex>

#include "circuit/programs/lane_player.hpp"
#include "explore/sampling/playout_sums.hpp"
#include "game/core.hpp"
#include "game/lane_game.hpp"
#include "threads/crew.hpp"

namespace orchard {
namespace {

using circuit::Executor;
using circuit::LaneStatistics;
using circuit::PlayProgram;

// The games are cut into parts, each with random numbers of its own, so that who plays which part
// does not matter. A part gives every lane many games, so that few lanes idle at its end.
constexpr std::uint64_t games_a_part = 64 * std::uint64_t{circuit::lanes};
constexpr std::uint64_t games_a_long_part = 256 * std::uint64_t{circuit::lanes};  // of many games
constexpr std::uint64_t games_a_short_part = 8 * std::uint64_t{circuit::lanes};
// Without a number of games, parts grow from one game a lane until they last this long and lanes
// are busy for most of it: towards the end of a part only the longest games are played. A part is
// begun so large only if it is over well within the time, since what is broken off is lost.
constexpr std::uint64_t games_a_first_part = circuit::lanes;
constexpr double seconds_a_part = 0.01;
constexpr double busy_enough = 0.9;
constexpr double seconds_without_end = 10;  // left to a run that only an interrupt ends
// How long after its time a run may finish the parts it has begun.
constexpr double seconds_to_finish = 0.06;

using Ready = LaneGame::Ready;

class LaneRun {
 public:
  LaneRun(const LaneGame& game, std::vector<bool> initial, const PlayoutOptions& options)
      : game_(game),
        initial_(std::move(initial)),
        options_(options),
        part_games_(part_games(options)),
        stopwatch_(options.budget),
        shared_(shared()) {}

  // None if a guided game meets what is not declared.
  std::optional<PlayoutStatistics> run(const GameCore& core);

 private:
  static std::uint64_t part_games(const PlayoutOptions& options) {
    if (!options.games) return games_a_first_part;
    if (options.budget.seconds) return games_a_short_part;
    return *options.games >= 8 * games_a_long_part ? games_a_long_part : games_a_part;
  }
  const Ready& shared();
  std::optional<Executor::Kind> kind() const {
    if (options_.evaluation != Evaluation::interpreter) return std::nullopt;
    return Executor::Kind::interpreter;
  }
  const Ready& separate();
  void work();
  std::uint64_t games_of(std::uint64_t part) const;
  // The number of games for the next part, after one of so many that lasted so long.
  std::uint64_t after(std::uint64_t games, double lasted, const LaneStatistics& played) const;
  bool may_begin() {
    const std::lock_guard lock(mutex_);
    look_at_budget();
    return !ended_;
  }
  // Whether a part that was begun is to be finished.
  bool goes_on() {
    const std::lock_guard lock(mutex_);
    look_at_budget();
    if (!ended_ || undeclared_) return !ended_;
    return ending_ == Ending::time && stopwatch_.seconds() < finished_by_;
  }
  void look_at_budget() {
    const auto ending = stopwatch_.check(total_.plies);
    if (!ending) return;
    ended_ = true;
    ending_ = *ending;
  }

  const LaneGame& game_;
  const std::vector<bool> initial_;
  const PlayoutOptions& options_;
  const std::uint64_t part_games_;
  std::atomic<std::uint64_t> next_part_{0};
  std::atomic<bool> ended_{false};
  std::atomic<bool> undeclared_{false};
  std::mutex mutex_;
  Stopwatch stopwatch_;
  const double seconds_ = options_.budget.seconds.value_or(0);
  const double finished_by_ = seconds_ + seconds_to_finish;
  std::unique_ptr<Ready> own_;  // unless games begin at the start, played by the fastest
  const Ready& shared_;
  // Guarded by mutex_.
  std::unique_ptr<Ready> separate_;
  Ending ending_ = Ending::complete;
  LaneStatistics total_;
};

const Ready& LaneRun::shared() {
  if (!kind() && initial_ == game_.ground().initial()) return game_.from_start();
  own_ = std::make_unique<Ready>(game_.ready(initial_, true, kind()));
  return *own_;
}

// With a choice for every role: made when the shared one meets a conflict.
const Ready& LaneRun::separate() {
  const std::lock_guard lock(mutex_);
  if (!separate_) separate_ = std::make_unique<Ready>(game_.ready(initial_, false, kind()));
  return *separate_;
}

std::uint64_t LaneRun::games_of(std::uint64_t part) const {
  const std::uint64_t before = part * part_games_;
  return before >= *options_.games ? 0 : std::min(part_games_, *options_.games - before);
}

std::uint64_t LaneRun::after(std::uint64_t games, double lasted,
                             const LaneStatistics& played) const {
  const double left =
      options_.budget.seconds ? seconds_ - stopwatch_.seconds() : seconds_without_end;
  const double all = static_cast<double>(played.rounds) * double{circuit::lanes};
  const bool busy = static_cast<double>(played.plies) >= busy_enough * all;
  if ((lasted < seconds_a_part || !busy) && lasted < left / 3) return 2 * games;
  for (; games > part_games_ && lasted > left; lasted /= 2) games /= 2;
  return games;
}

void LaneRun::work() {
  circuit::LanePlayer player(shared_.program, *shared_.executor, initial_);
  std::optional<circuit::LanePlayer> careful;  // after the first conflict
  std::uint64_t growing = part_games_;
  for (std::uint64_t part = next_part_++; may_begin(); part = next_part_++) {
    const std::uint64_t games = options_.games ? games_of(part) : growing;
    if (games == 0) return;
    const double begun = stopwatch_.seconds();
    const auto play = [&](circuit::LanePlayer& with) {
      return with.play(games, options_.seed, part, options_.plies, [&] { return goes_on(); });
    };
    LaneStatistics played = play(player);
    if (played.conflict) {
      if (!careful) careful.emplace(separate().program, *separate().executor, initial_);
      played = play(*careful);
      if (played.conflict) {
        undeclared_ = true;
        ended_ = true;
        return;
      }
    }
    if (played.left) return;  // what was begun and not ended says nothing: long games are missing
    growing = after(growing, stopwatch_.seconds() - begun, played);
    const std::lock_guard lock(mutex_);
    total_.add(played);
  }
}

std::optional<PlayoutStatistics> LaneRun::run(const GameCore& core) {
  Crew(options_.threads).all([this](std::size_t) { work(); });
  if (undeclared_) return std::nullopt;
  PlayoutStatistics result = explore::statistics_of(total_, total_.games, core.roles().size(),
                                                    stopwatch_.seconds(), ending_);
  for (const auto& [pattern, count] : total_.outcomes) {
    std::vector<std::vector<Term>> values(core.roles().size());
    std::size_t bit = 0;
    for (std::size_t r = 0; r < values.size(); ++r) {
      for (const auto& value : game_.ground().goals()[r]) {
        if (pattern[bit++]) values[r].push_back(core.terms().term(value.term));
      }
    }
    result.outcomes[std::move(values)] = count;
  }
  return result;
}

}  // namespace

std::optional<PlayoutStatistics> lane_playouts(const Game& game, const Position& from,
                                               const PlayoutOptions& options) {
  if (options.evaluation == Evaluation::reference) return std::nullopt;
  const GameCore& core = *GameAccess::core(game);
  const LaneGame* const lanes = core.lanes_or_guided();
  if (lanes == nullptr) return std::nullopt;
  auto initial = lanes->bits(GameAccess::state(from).fluents());
  if (!initial) return std::nullopt;
  return LaneRun(*lanes, std::move(*initial), options).run(core);
}

}  // namespace orchard
