#include "explore/keyed_count.hpp"

#include <algorithm>

namespace orchard::explore {

namespace {

template <std::size_t words>
class KeyedCount {
 public:
  KeyedCount(const KeyedGame& game, KeyStore<words>& store, std::span<const std::uint64_t> start,
             const CensusOptions& options, Stopwatch& stopwatch, const MendedRows& mended,
             const std::string& kind)
      : game_(game),
        store_(store),
        start_(start),
        options_(options),
        stopwatch_(stopwatch),
        mended_(mended),
        kind_(kind),
        crew_(std::max(1u, options.threads)),
        workers_(crew_.workers()) {}

  Result<CountFaults> run(StateReader* saved, Census& census);

 private:
  BlockCounts counts() const;
  std::uint64_t positions() const;
  std::optional<Ending> over_budget();
  CountFaults faults() const;
  Diagnostics save(const Census& census);
  void load(StateReader& saved, Census& census);

  const KeyedGame& game_;
  KeyStore<words>& store_;
  const std::span<const std::uint64_t> start_;
  const CensusOptions& options_;
  Stopwatch& stopwatch_;
  const MendedRows& mended_;
  const std::string& kind_;
  Crew crew_;
  std::vector<LayerWorker> workers_;
  std::uint64_t depth_ = 0;
  std::uint64_t keys_done_ = 0;       // of the layers before …
  std::uint64_t positions_done_ = 0;  // … and what they stood for
  bool in_layer_ = false;             // it has been entered
  bool finished_ = false;
};

template <std::size_t words>
BlockCounts KeyedCount<words>::counts() const {
  BlockCounts result;
  for (const LayerWorker& worker : workers_) result.add(worker.counts);
  return result;
}

template <std::size_t words>
std::uint64_t KeyedCount<words>::positions() const {
  const BlockCounts layer = counts();
  return positions_done_ + layer.positions + (store_.reached() - keys_done_ - layer.keys);
}

template <std::size_t words>
std::optional<Ending> KeyedCount<words>::over_budget() {
  const Budget& budget = options_.budget;
  if (budget.memory_bytes && store_.bytes() > *budget.memory_bytes) return Ending::memory;
  return stopwatch_.check(positions(), depth_);
}

template <std::size_t words>
CountFaults KeyedCount<words>::faults() const {
  CountFaults result;
  for (const LayerWorker& worker : workers_) {
    if (worker.faults.any()) static_cast<BlockFaults&>(result) = worker.faults;
  }
  result.depth = depth_ + 1;
  return result;
}

// Between rounds, when nothing found is waiting.
template <std::size_t words>
Diagnostics KeyedCount<words>::save(const Census& census) {
  StateWriter writer(options_.budget.checkpoint->folder, "keys",
                     counted_state(game_.game(), start_, options_));
  const BlockCounts layer = counts();
  writer.put("store", std::vector<char>(kind_.begin(), kind_.end()));
  writer.put("at", std::vector<std::uint64_t>{depth_, layer.positions, layer.terminal, layer.stuck,
                                              layer.open, layer.keys, in_layer_, finished_,
                                              keys_done_, positions_done_});
  std::vector<std::uint64_t> rows;
  for (const CensusDepth& row : census.depths) {
    rows.insert(rows.end(), {row.positions, row.terminal, row.stuck});
  }
  writer.put("depths", rows);
  writer.put("mended", mended_.rows);
  writer.put("mended at", mended_.depths);
  store_.save(writer);
  stopwatch_.saved();
  return writer.finish();
}

template <std::size_t words>
void KeyedCount<words>::load(StateReader& saved, Census& census) {
  const auto at = saved.get<std::uint64_t>("at");
  depth_ = at.at(0);
  workers_[0].counts = {at.at(5), at.at(1), at.at(2), at.at(3), at.at(4) != 0};
  in_layer_ = at.at(6) != 0;
  finished_ = at.at(7) != 0;
  keys_done_ = at.at(8);
  positions_done_ = at.at(9);
  const auto rows = saved.get<std::uint64_t>("depths");
  for (std::size_t d = 0; d * 3 < rows.size(); ++d) {
    census.depths.push_back({d, rows[d * 3], rows[d * 3 + 1], rows[d * 3 + 2], {}});
  }
  store_.load(saved);
}

template <std::size_t words>
Result<CountFaults> KeyedCount<words>::run(StateReader* saved, Census& census) {
  if (saved != nullptr) {
    load(*saved, census);
  } else {
    const std::vector<std::uint64_t> key = game_.code().key(start_).value();
    Key<words> start{};
    std::ranges::copy(key, start.begin());
    store_.begin(start);
  }
  census.positions = positions();
  census.complete = finished_;
  if (options_.depth && depth_ > *options_.depth) {  // saved by a deeper count
    const std::size_t asked = *options_.depth + 1;
    census.complete = finished_ && census.depths.size() <= asked;
    if (census.depths.size() > asked) census.depths.resize(asked);
    census.positions = 0;
    for (const CensusDepth& row : census.depths) census.positions += row.positions;
    return CountFaults{};
  }
  const auto saved_now = [&] { return options_.budget.checkpoint ? save(census) : Diagnostics{}; };
  for (; !finished_; ++depth_) {
    if (!in_layer_) {
      store_.enter_next_layer();
      in_layer_ = true;
    }
    const bool last = options_.depth && depth_ >= *options_.depth;
    for (bool more = true; more;) {
      more = store_.expand_some(crew_, depth_, !last, workers_);
      if (const CountFaults found = faults(); found.any()) return found;
      if (more && !store_.is_full() && !stopwatch_.save_is_due()) continue;
      store_.collect(crew_);
      census.positions = positions();
      census.peak_bytes = std::max(census.peak_bytes, store_.bytes());
      if (store_.is_wasteful()) {
        CountFaults found;
        found.wasteful = true;
        return found;
      }
      if (const auto ending = over_budget()) {
        census.ending = *ending;
        // What a last layer counts is no part of what can be gone on from.
        if (Diagnostics problems = last ? Diagnostics{} : saved_now(); !problems.empty()) {
          return problems;
        }
        return CountFaults{};
      }
      if (stopwatch_.save_is_due() && !last) {
        if (Diagnostics problems = save(census); !problems.empty()) return problems;
      }
    }
    const BlockCounts layer = counts();
    if (layer.positions > 0) {
      census.depths.push_back({depth_, layer.positions, layer.terminal, layer.stuck, {}});
    }
    in_layer_ = false;
    keys_done_ += layer.keys;
    positions_done_ += layer.positions;
    for (LayerWorker& worker : workers_) worker.counts = {};
    census.positions = positions();
    if (last) {
      census.complete = !layer.open;
      return CountFaults{};
    }
    finished_ = !layer.open;
    census.complete = finished_;
    if (!finished_ && options_.budget.positions && census.positions >= *options_.budget.positions) {
      ++depth_;
      census.ending = Ending::positions;
      if (Diagnostics problems = saved_now(); !problems.empty()) return problems;
      return CountFaults{};
    }
  }
  if (Diagnostics problems = saved_now(); !problems.empty()) return problems;
  return CountFaults{};
}

}  // namespace

std::string counted_state(const LaneGame& game, std::span<const std::uint64_t> start,
                          const CensusOptions& options) {
  return state_of(game, start) + (options.symmetry ? "" : ", every position");
}

template <std::size_t words>
Result<CountFaults> count_on_keys(const KeyedGame& game, KeyStore<words>& store,
                                  std::span<const std::uint64_t> start,
                                  const CensusOptions& options, Stopwatch& stopwatch,
                                  const MendedRows& mended, const std::string& kind,
                                  StateReader* saved, Census& census) {
  return KeyedCount<words>(game, store, start, options, stopwatch, mended, kind).run(saved, census);
}

#define ORCHARD_COUNT(words)                                                                    \
  template Result<CountFaults> count_on_keys<words>(                                            \
      const KeyedGame&, KeyStore<words>&, std::span<const std::uint64_t>, const CensusOptions&, \
      Stopwatch&, const MendedRows&, const std::string&, StateReader*, Census&);
ORCHARD_COUNT(1)
ORCHARD_COUNT(2)
ORCHARD_COUNT(3)
#undef ORCHARD_COUNT

}  // namespace orchard::explore
