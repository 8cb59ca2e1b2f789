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
    if (!options.games || options.budget.seconds) return games_a_short_part;
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
  bool goes_on() {
    const std::lock_guard lock(mutex_);
    if (const auto ending = stopwatch_.check(total_.plies)) {
      ending_ = *ending;
      ended_ = true;
    }
    return !ended_;
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
  if (!options_.games) return part_games_;
  const std::uint64_t before = part * part_games_;
  return before >= *options_.games ? 0 : std::min(part_games_, *options_.games - before);
}

void LaneRun::work() {
  circuit::LanePlayer player(shared_.program, *shared_.executor, initial_);
  std::optional<circuit::LanePlayer> careful;  // after the first conflict
  for (std::uint64_t part = next_part_++; goes_on(); part = next_part_++) {
    const std::uint64_t games = games_of(part);
    if (games == 0) return;
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
