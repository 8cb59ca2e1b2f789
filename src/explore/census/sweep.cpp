#include "explore/census/sweep.hpp"

#include <algorithm>

#include "explore/keys/census_codes.hpp"
#include "explore/sampling/joint_moves.hpp"
#include "explore/stores/key_sought.hpp"
#include "explore/stores/key_store.hpp"

namespace orchard::explore {

namespace {

constexpr std::uint32_t most_bits = 32;  // 512 MB of them

// What a code could not do, and the depth of what follows there.
struct Broken {
  BlockFaults faults;
  std::uint64_t depth = 0;
};

template <std::size_t words>
class KeyedSweep : public Sweep {
 public:
  KeyedSweep(std::unique_ptr<const KeyedGame> game, std::unique_ptr<KeptLayers<words>> layers)
      : game_(std::move(game)), layers_(std::move(layers)) {}

  // Looks at everything, or until it breaks or the budget ends.
  void look(std::span<const std::uint64_t> start, Stopwatch& stopwatch, std::uint64_t most,
            unsigned threads, Broken& broken);
  std::vector<std::vector<std::uint32_t>> line_to(const Sighting& sighting) const override;

 private:
  std::vector<std::uint32_t> joint_between(const Key<words>& before, const Key<words>& after,
                                           std::uint64_t depth) const;

  const std::unique_ptr<const KeyedGame> game_;
  const std::unique_ptr<KeptLayers<words>> layers_;
};

template <std::size_t words>
void KeyedSweep<words>::look(std::span<const std::uint64_t> start, Stopwatch& stopwatch,
                             std::uint64_t most, unsigned threads, Broken& broken) {
  Crew crew(std::max(1u, threads));
  std::vector<LayerWorker> workers(crew.workers());
  const std::vector<std::uint64_t> start_key = game_->code().key(start).value();
  Key<words> first{};
  std::ranges::copy(start_key, first.begin());
  layers_->begin(first);
  for (std::uint64_t depth = 0;; ++depth) {
    layers_->enter_next_layer(crew);
    while (layers_->expand_some(crew, depth, true, workers)) {
      for (const LayerWorker& worker : workers) {
        if (!worker.faults.any()) continue;
        broken = {worker.faults, depth + 1};
        return;
      }
      if (layers_->is_full()) layers_->collect(crew);
      const std::uint64_t reached = layers_->reached();
      if (reached > most || stopwatch.check(reached, depth, layers_->bytes())) return;
    }
    BlockCounts counts;
    for (LayerWorker& worker : workers) {
      counts.add(worker.counts);
      worker.counts = {};
    }
    if (counts.positions > 0) depths_.push_back({counts.positions, counts.terminal});
    positions_ += counts.positions;
    const SignalCounts seen = layers_->seen();
    sightings_.resize(seen.held.size());
    for (std::size_t s = 0; s < seen.held.size(); ++s) {
      Sighting& sighting = sightings_[s];
      if (sighting.count == 0 && seen.held[s] > 0) sighting = {0, depth, seen.first[s]};
      sighting.count += seen.held[s];
    }
    complete_ = !counts.open;
    if (complete_) return;
  }
}

template <std::size_t words>
std::vector<std::vector<std::uint32_t>> KeyedSweep<words>::line_to(const Sighting& sighting) const {
  KeyedExpander<words> expander(*game_);
  std::vector<std::vector<std::uint32_t>> result;
  BlockCounts ignored;
  Key<words> key;
  std::copy_n(sighting.key.begin(), words, key.begin());
  for (std::uint64_t depth = sighting.depth; depth-- > 0;) {
    KeySought<words> hit(key);
    std::optional<Key<words>> before;
    layers_->visit_layer(depth, [&](std::span<const Key<words>> keys) {
      expander.expand(keys, depth, true, ignored, hit);
      if (!hit.take()) return true;
      for (std::size_t at = 0; at < keys.size() && !before; ++at) {
        expander.expand(keys.subspan(at, 1), depth, true, ignored, hit);
        if (hit.take()) before = keys[at];
      }
      return false;
    });
    result.push_back(joint_between(before.value(), key, depth));
    key = *before;
  }
  std::ranges::reverse(result);
  return result;
}

// By a plain evaluator.
template <std::size_t words>
std::vector<std::uint32_t> KeyedSweep<words>::joint_between(const Key<words>& before,
                                                            const Key<words>& after,
                                                            std::uint64_t depth) const {
  LaneEvaluator evaluator(game_->game());
  const auto row = game_->code().row(before, evaluator.words(), depth);
  const auto next = game_->code().row(after, evaluator.words(), depth + 1);
  std::vector<std::vector<std::uint32_t>> legal(game_->game().ground().moves().size());
  evaluator.set_positions(row, 1);
  for (std::size_t role = 0; role < legal.size(); ++role) evaluator.legal(0, role, legal[role]);
  std::optional<std::vector<std::uint32_t>> made;
  each_joint_move(legal, [&](const std::vector<std::uint32_t>& joint) {
    if (made) return;
    evaluator.load(row, 1);
    evaluator.set_joint(0, joint);
    evaluator.step();
    if (std::ranges::equal(evaluator.next(0), next)) made = joint;
  });
  return made.value();
}

// A game on keys, and a look at it.
struct Attempt {
  std::unique_ptr<Sweep> sweep;  // null if it could not begin
  Broken broken;
};

template <std::size_t words>
Attempt look_with(std::unique_ptr<const KeyedGame> game, std::unique_ptr<KeptLayers<words>> layers,
                  std::span<const std::uint64_t> start, Stopwatch& stopwatch, std::uint64_t most,
                  unsigned threads) {
  if (!layers) return {};
  auto sweep = std::make_unique<KeyedSweep<words>>(std::move(game), std::move(layers));
  Attempt result;
  sweep->look(start, stopwatch, most, threads, result.broken);
  result.sweep = std::move(sweep);
  return result;
}

}  // namespace

std::unique_ptr<Sweep> Sweep::run(const LaneGame& game, std::span<const std::uint64_t> start,
                                  const Lookout& lookout, const Budget& budget, const Most& most,
                                  unsigned threads) {
  if (!KeyedGame::can_be_made(game)) return nullptr;
  Budget without_positions = budget;
  without_positions.positions.reset();
  Stopwatch stopwatch(without_positions);
  CensusCodes codes(game, start, false);
  Measure measure = codes.measure();
  constexpr int most_attempts = 40;
  constexpr int most_with_bitmaps = 12;
  const std::size_t workers = std::max(1u, threads);
  auto swept = codes.mend_until_it_fits<std::unique_ptr<Sweep>>(most_attempts, [&](int number) {
    Attempted<std::unique_ptr<Sweep>> outcome;
    const bool apart = measure.step != 0;
    auto joined = apart && number < most_with_bitmaps ? codes.joined(true) : std::nullopt;
    const bool in_bits = joined && joined->bits <= most_bits && most.bits > 0;
    auto keyed =
        KeyedGame::make(game, in_bits ? std::move(*joined) : codes.apart(), measure, {}, lookout);
    outcome.given_up = !keyed || !keyed->code().key(start);
    if (outcome.given_up) return outcome;
    const KeyedGame& of = *keyed;
    const auto in_runs = [&]<std::size_t words>(std::integral_constant<std::size_t, words>) {
      auto layers =
          make_run_store<words>(of, {apart, true, budget.memory_bytes, std::nullopt}, workers);
      return look_with<words>(std::move(keyed), std::move(layers), start, stopwatch, most.coded,
                              threads);
    };
    const std::size_t words = of.code().words();
    Attempt looked = in_bits ? look_with<1>(std::move(keyed), make_kept_layers(of, workers), start,
                                            stopwatch, most.bits, threads)
                     : words == 1 ? in_runs(std::integral_constant<std::size_t, 1>())
                     : words == 2 ? in_runs(std::integral_constant<std::size_t, 2>())
                                  : in_runs(std::integral_constant<std::size_t, 3>());
    const BlockFaults& faults = looked.broken.faults;
    outcome.given_up =
        !looked.sweep || faults.joint_moves || (!faults.any() && looked.sweep->depths().empty());
    if (!outcome.given_up && !faults.any()) outcome.result = std::move(looked.sweep);
    if (faults.measure) measure = {};
    for (const auto& row : faults.rows) {
      outcome.unwritable.rows.insert(outcome.unwritable.rows.end(), row.begin(), row.end());
      outcome.unwritable.depths.push_back(looked.broken.depth);
    }
    return outcome;
  });
  return swept ? std::move(*swept) : nullptr;
}

}  // namespace orchard::explore
