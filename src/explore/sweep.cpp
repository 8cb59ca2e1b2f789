#include "explore/sweep.hpp"

#include <algorithm>

#include "explore/census_codes.hpp"
#include "explore/joint_moves.hpp"
#include "explore/key_sought.hpp"

namespace orchard::explore {

namespace {

constexpr std::uint32_t most_bits = 32;  // 512 MB of them

}  // namespace

bool Sweep::look(std::span<const std::uint64_t> start, Stopwatch& stopwatch, unsigned threads,
                 Broken& broken) {
  Crew crew(std::max(1u, threads));
  std::vector<LayerWorker> workers(crew.workers());
  layers_->begin({game_->code().key(start).value()[0]});
  for (std::uint64_t depth = 0;; ++depth) {
    layers_->enter_next_layer();
    while (layers_->expand_some(crew, depth, true, workers)) {
      for (const LayerWorker& worker : workers) {
        if (!worker.faults.any()) continue;
        broken = {worker.faults, depth + 1};
        return true;
      }
      if (stopwatch.check(layers_->reached(), depth, layers_->bytes())) return false;
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
    if (!counts.open) return true;
  }
}

std::unique_ptr<Sweep> Sweep::run(const LaneGame& game, std::span<const std::uint64_t> start,
                                  const Lookout& lookout, const Budget& budget, unsigned threads) {
  if (!KeyedGame::can_be_made(game)) return nullptr;
  Stopwatch stopwatch(budget);
  CensusCodes codes(game, start, false);
  if (codes.measure().step == 0) return nullptr;
  constexpr int most_attempts = 12;
  for (int attempt = 0; attempt < most_attempts; ++attempt) {
    auto code = codes.joined(true);
    if (!code || code->bits > most_bits) return nullptr;
    std::unique_ptr<Sweep> sweep(new Sweep);
    sweep->game_ = KeyedGame::make(game, std::move(*code), codes.measure(), {}, lookout);
    if (!sweep->game_ || !sweep->game_->code().key(start)) return nullptr;
    sweep->layers_ = make_kept_layers(*sweep->game_, std::max(1u, threads));
    if (!sweep->layers_) return nullptr;
    Broken broken;
    if (!sweep->look(start, stopwatch, threads, broken)) return nullptr;
    if (!broken.faults.any()) return sweep;
    if (broken.faults.joint_moves || broken.faults.measure) return nullptr;
    MendedRows rows;
    for (const auto& row : broken.faults.rows) {
      rows.rows.insert(rows.rows.end(), row.begin(), row.end());
      rows.depths.push_back(broken.depth);
    }
    codes.mend(rows);
  }
  return nullptr;
}

std::vector<std::vector<std::uint32_t>> Sweep::line_to(const Sighting& sighting) const {
  KeyedExpander<1> expander(*game_);
  LaneEvaluator evaluator(game_->game());
  std::vector<std::vector<std::uint32_t>> result;
  std::vector<std::vector<std::uint32_t>> legal(game_->game().ground().moves().size());
  BlockCounts ignored;
  std::uint64_t key = sighting.key;
  for (std::uint64_t depth = sighting.depth; depth-- > 0;) {
    KeySought hit(key);
    std::optional<Key<1>> before;
    layers_->visit_layer(depth, [&](std::span<const Key<1>> keys) {
      expander.expand(keys, depth, true, ignored, hit);
      if (!hit.take()) return true;
      for (std::size_t at = 0; at < keys.size() && !before; ++at) {
        expander.expand(keys.subspan(at, 1), depth, true, ignored, hit);
        if (hit.take()) before = keys[at];
      }
      return false;
    });
    // The joint move between the two, by a plain evaluator.
    const auto row = game_->code().row(before.value(), evaluator.words(), depth);
    const auto next = game_->code().row(Key<1>{key}, evaluator.words(), depth + 1);
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
    result.push_back(made.value());
    key = (*before)[0];
  }
  std::ranges::reverse(result);
  return result;
}

}  // namespace orchard::explore
