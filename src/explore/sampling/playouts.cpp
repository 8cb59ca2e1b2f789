#include "orchard/playouts.hpp"

#include <algorithm>
#include <atomic>

#include "base/interruption.hpp"
#include "explore/sampling/lane_playouts.hpp"
#include "explore/sampling/playout_sums.hpp"
#include "game/random_line.hpp"
#include "threads/crew.hpp"

namespace orchard {

double PlayoutStatistics::mean_length() const {
  double sum = 0;
  double games = 0;
  for (const auto& [length, count] : lengths) {
    sum += static_cast<double>(length) * static_cast<double>(count);
    games += static_cast<double>(count);
  }
  return games > 0 ? sum / games : 0;
}

std::uint64_t PlayoutStatistics::median_length() const {
  std::uint64_t passed = 0;
  for (const auto& [length, count] : lengths) {
    passed += count;
    if (passed * 2 >= finished()) return length;
  }
  return 0;
}

namespace {

// What one thread has counted; sums only, so that merging gives the same for any split.
struct Tally {
  std::uint64_t playouts = 0;
  std::uint64_t plies = 0;
  std::uint64_t unfinished = 0;
  std::uint64_t stuck = 0;
  std::map<std::uint64_t, std::uint64_t> lengths;
  std::vector<std::uint64_t> choices;    // by role, legal moves where it is to move
  std::vector<std::uint64_t> positions;  // by role, where it is to move
  std::map<std::vector<std::vector<TermId>>, std::uint64_t> outcomes;

  void merge(const Tally& other) {
    playouts += other.playouts;
    plies += other.plies;
    unfinished += other.unfinished;
    stuck += other.stuck;
    for (const auto& [length, count] : other.lengths) lengths[length] += count;
    for (std::size_t r = 0; r < choices.size(); ++r) choices[r] += other.choices[r];
    for (std::size_t r = 0; r < positions.size(); ++r) positions[r] += other.positions[r];
    for (const auto& [values, count] : other.outcomes) outcomes[values] += count;
  }
};

class PlayoutRun {
 public:
  PlayoutRun(const GameCore& core, const PlayoutOptions& options, std::vector<TermId> start)
      : core_(core), options_(options), start_(std::move(start)), stopwatch_(options.budget) {
    total_.choices.resize(core.roles().size());
    total_.positions.resize(core.roles().size());
  }

  Result<PlayoutStatistics> run();

 private:
  void work();
  void play(PositionEvaluator& evaluator, std::uint64_t game, Tally& tally);
  bool may_begin(std::uint64_t game);
  void count_position(const LinePosition& at, Tally& tally) const;

  const GameCore& core_;
  const PlayoutOptions& options_;
  const std::vector<TermId> start_;
  std::atomic<std::uint64_t> next_game_{0};
  std::atomic<bool> ended_{false};
  std::mutex mutex_;
  Stopwatch stopwatch_;  // `check` under mutex_; reading the clock needs none
  // Guarded by mutex_.
  Ending ending_ = Ending::complete;
  std::uint64_t plies_so_far_ = 0;
  Tally total_;
  std::optional<Diagnostic> fault_;
};

bool PlayoutRun::may_begin(std::uint64_t game) {
  if (options_.games && game >= *options_.games) return false;
  const std::lock_guard lock(mutex_);
  if (const auto ending = stopwatch_.check(plies_so_far_)) {
    ending_ = *ending;
    ended_ = true;
  }
  return !ended_;
}

void PlayoutRun::count_position(const LinePosition& at, Tally& tally) const {
  for (std::size_t role = 0; role < at.legal->size(); ++role) {
    const std::vector<TermId>& moves = (*at.legal)[role];
    if (moves.size() == 1 && core_.is_waiting(role, moves.front())) continue;
    tally.choices[role] += moves.size();
    ++tally.positions[role];
  }
}

void PlayoutRun::play(PositionEvaluator& evaluator, std::uint64_t game, Tally& tally) {
  Random random = Random::stream(options_.seed, game);
  std::uint64_t plies = 0;
  const LineEnding ending =
      random_line(evaluator, start_, random, options_.plies, [&](const LinePosition& at) {
        plies = at.ply;
        if (at.joint != nullptr) count_position(at, tally);
        return !Interruption::asked();
      });
  if (ending == LineEnding::left) return;
  ++tally.playouts;
  tally.plies += plies;
  if (ending == LineEnding::plies) ++tally.unfinished;
  if (ending == LineEnding::stuck) ++tally.stuck;
  if (ending != LineEnding::terminal) return;
  ++tally.lengths[plies];
  ++tally.outcomes[evaluator.goals()];
}

void PlayoutRun::work() {
  Tally tally;
  tally.choices.resize(core_.roles().size());
  tally.positions.resize(core_.roles().size());
  try {
    GameCore::Lease evaluator(core_, true);
    for (std::uint64_t game = next_game_++; may_begin(game); game = next_game_++) {
      const std::uint64_t before = tally.plies;
      play(*evaluator, game, tally);
      const std::lock_guard lock(mutex_);
      plies_so_far_ += tally.plies - before;
    }
  } catch (const logic::LimitExceeded& limit) {
    const std::lock_guard lock(mutex_);
    fault_ = core_.too_large(limit);
    ended_ = true;
  } catch (const Interrupted& interrupted) {  // in the middle of a game, which does not count
    const std::lock_guard lock(mutex_);
    ending_ = interrupted.ending;
    ended_ = true;
  }
  const std::lock_guard lock(mutex_);
  total_.merge(tally);
}

Result<PlayoutStatistics> PlayoutRun::run() {
  Crew(options_.threads).all([this](std::size_t) { work(); });
  if (fault_) return *fault_;
  PlayoutStatistics result = explore::statistics_of(total_, total_.playouts, core_.roles().size(),
                                                    stopwatch_.seconds(), ending_);
  for (const auto& [values, count] : total_.outcomes) {
    std::vector<std::vector<Term>> terms(values.size());
    for (std::size_t r = 0; r < values.size(); ++r) {
      for (const TermId id : values[r]) terms[r].push_back(core_.terms().term(id));
    }
    result.outcomes[std::move(terms)] = count;
  }
  return result;
}

}  // namespace

Result<PlayoutStatistics> run_playouts(const Game& game, const PlayoutOptions& options) {
  const Interruption interruption(options.budget);
  const Position& from = options.from ? *options.from : game.initial();
  try {
    if (auto result = lane_playouts(game, from, options)) return std::move(*result);
  } catch (const Interrupted& interrupted) {
    PlayoutStatistics nothing;
    nothing.ending = interrupted.ending;
    nothing.branching.resize(game.roles().size());
    return nothing;
  }
  return PlayoutRun(*GameAccess::core(game), options, GameAccess::state(from).fluents()).run();
}

}  // namespace orchard
