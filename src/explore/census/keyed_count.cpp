#include "explore/census/keyed_count.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "explore/census/layer_tally.hpp"

namespace orchard::explore {

namespace {

template <std::size_t words>
class KeyedCount {
 public:
  KeyedCount(const KeyedGame& game, KeyStore<words>& store, std::span<const std::uint64_t> start,
             const CensusOptions& options, Stopwatch& stopwatch, const MendedRows& mended,
             const StoragePlan& plan)
      : game_(game),
        store_(store),
        start_(start),
        options_(options),
        stopwatch_(stopwatch),
        mended_(mended),
        plan_(plan),
        crew_(std::max(1u, options.threads)),
        tally_(crew_.workers()) {}

  Result<CountFaults> run(StateReader* saved, Census& census);

 private:
  std::uint64_t positions() const { return tally_.positions(store_.reached()); }
  std::optional<Ending> over_budget();
  bool take_faults();
  Diagnostics cannot_keep(const std::string& reason) const;
  Diagnostics save(const Census& census);
  Diagnostics save_if_wanted(const Census& census);
  void load(StateReader& saved, Census& census);
  void begin();
  void cut_to(std::uint64_t depth, Census& census) const;
  // Counts what is left of a layer; false if it could not be done, for faults_ or the budget.
  Result<bool> count_layer(bool last, Census& census);

  const KeyedGame& game_;
  KeyStore<words>& store_;
  const std::span<const std::uint64_t> start_;
  const CensusOptions& options_;
  Stopwatch& stopwatch_;
  const MendedRows& mended_;
  const StoragePlan& plan_;
  Crew crew_;
  LayerTally tally_;
  CountFaults faults_;
  const double begun_after_ = stopwatch_.seconds();
  std::optional<double> broken_after_;  // seconds of counting until the first fault
};

template <std::size_t words>
std::optional<Ending> KeyedCount<words>::over_budget() {
  return stopwatch_.check(positions(), tally_.depth(), store_.bytes());
}

// Takes the faults of the workers; whether counting is over. What cannot be written is passed over
// for a while, so that more of it is met at once: each new code means counting from the start.
template <std::size_t words>
bool KeyedCount<words>::take_faults() {
  constexpr std::size_t most_rows = 256;
  for (LayerWorker& worker : tally_.workers()) {
    faults_.joint_moves = faults_.joint_moves || worker.faults.joint_moves;
    faults_.measure = faults_.measure || worker.faults.measure;
    for (const auto& row : worker.faults.rows) {
      faults_.unwritable.rows.insert(faults_.unwritable.rows.end(), row.begin(), row.end());
      faults_.unwritable.depths.push_back(tally_.depth() + 1);
    }
    worker.faults = {};
  }
  if (faults_.joint_moves || faults_.measure) return true;
  if (faults_.unwritable.depths.empty()) return false;
  if (!broken_after_) broken_after_ = stopwatch_.seconds() - begun_after_;
  return faults_.unwritable.depths.size() >= most_rows ||
         stopwatch_.seconds() - begun_after_ > 2 * *broken_after_;
}

template <std::size_t words>
Diagnostics KeyedCount<words>::cannot_keep(const std::string& reason) const {
  Diagnostics result;
  result.add(plain_error("cannot-write",
                         fmt::format("{}: keys cannot be kept there: {}", *options_.files, reason),
                         "name a folder with more room, or give more memory instead"));
  return result;
}

// Between rounds, when nothing found is waiting.
template <std::size_t words>
Diagnostics KeyedCount<words>::save(const Census& census) {
  StateWriter writer(options_.budget.checkpoint->folder, "keys",
                     counted_state(game_.game(), start_, options_));
  writer.put("plan", plan_.numbers());
  writer.put("at", tally_.numbers());
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
  tally_.set(saved.get<std::uint64_t>("at"));
  const auto rows = saved.get<std::uint64_t>("depths");
  for (std::size_t d = 0; d * 3 < rows.size(); ++d) {
    census.depths.push_back({d, rows[d * 3], rows[d * 3 + 1], rows[d * 3 + 2], {}});
  }
  store_.load(saved);
}

template <std::size_t words>
void KeyedCount<words>::begin() {
  const std::vector<std::uint64_t> key = game_.code().key(start_).value();
  Key<words> start{};
  std::ranges::copy(key, start.begin());
  store_.begin(start);
}

// What a deeper count had saved, as a count to the depth that is asked for.
template <std::size_t words>
void KeyedCount<words>::cut_to(std::uint64_t depth, Census& census) const {
  const std::size_t asked = depth + 1;
  census.complete = tally_.finished() && census.depths.size() <= asked;
  if (census.depths.size() > asked) census.depths.resize(asked);
  census.positions = 0;
  for (const CensusDepth& row : census.depths) census.positions += row.positions;
}

template <std::size_t words>
Diagnostics KeyedCount<words>::save_if_wanted(const Census& census) {
  return options_.budget.checkpoint && !faults_.any() ? save(census) : Diagnostics{};
}

template <std::size_t words>
Result<bool> KeyedCount<words>::count_layer(bool last, Census& census) {
  if (!tally_.in_layer()) {
    store_.enter_next_layer(crew_);
    tally_.enter_layer();
  }
  for (bool more = true; more;) {
    more = store_.expand_some(crew_, tally_.depth(), !last, tally_.workers());
    if (take_faults()) return false;
    if (more && !store_.is_full() && !stopwatch_.save_is_due()) continue;
    store_.collect(crew_);
    if (const auto reason = store_.problem()) return cannot_keep(*reason);
    census.positions = positions();
    census.peak_bytes = std::max(census.peak_bytes, store_.bytes());
    census.peak_file_bytes = std::max(census.peak_file_bytes, store_.bytes_in_files());
    if (plan_.most_keys && store_.reached() > *plan_.most_keys) {
      faults_.outgrown_by = store_.reached();
      return false;
    }
    if (const auto ending = over_budget()) {
      census.ending = *ending;
      census.positions = tally_.positions(store_.surely_reached());
      // A last layer is not saved: its positions were counted without their successors.
      if (Diagnostics problems = last ? Diagnostics{} : save_if_wanted(census); !problems.empty()) {
        return problems;
      }
      return false;
    }
    if (stopwatch_.save_is_due() && !last) {
      if (Diagnostics problems = save_if_wanted(census); !problems.empty()) return problems;
    }
  }
  return true;
}

template <std::size_t words>
Result<CountFaults> KeyedCount<words>::run(StateReader* saved, Census& census) {
  if (saved != nullptr) {
    load(*saved, census);
  } else {
    begin();
  }
  census.positions = positions();
  census.complete = tally_.finished();
  if (options_.depth && tally_.depth() > *options_.depth) {
    cut_to(*options_.depth, census);
    return faults_;
  }
  while (!tally_.finished()) {
    const bool last = options_.depth && tally_.depth() >= *options_.depth;
    const Result<bool> counted = count_layer(last, census);
    if (!counted) return counted.diagnostics();
    if (!*counted) return faults_;
    LayerTally::Left layer = tally_.leave_layer();
    if (layer.row) census.depths.push_back(std::move(*layer.row));
    census.positions = positions();
    census.complete = !layer.open;
    if (last) return faults_;
    tally_.enter_depth_below();
    if (!layer.open) {
      tally_.finish();
      break;
    }
    if (options_.budget.positions && census.positions >= *options_.budget.positions) {
      census.ending = Ending::positions;
      break;
    }
  }
  if (Diagnostics problems = save_if_wanted(census); !problems.empty()) return problems;
  return faults_;
}

}  // namespace

std::string counted_state(const LaneGame& game, std::span<const std::uint64_t> start,
                          const CensusOptions& options) {
  return game.identity(start) + ", in short keys" + (options.symmetry ? "" : ", every position");
}

template <std::size_t words>
Result<CountFaults> count_on_keys(const KeyedGame& game, KeyStore<words>& store,
                                  std::span<const std::uint64_t> start,
                                  const CensusOptions& options, Stopwatch& stopwatch,
                                  const MendedRows& mended, const StoragePlan& plan,
                                  StateReader* saved, Census& census) {
  return KeyedCount<words>(game, store, start, options, stopwatch, mended, plan).run(saved, census);
}

#define ORCHARD_COUNT(words)                                                                    \
  template Result<CountFaults> count_on_keys<words>(                                            \
      const KeyedGame&, KeyStore<words>&, std::span<const std::uint64_t>, const CensusOptions&, \
      Stopwatch&, const MendedRows&, const StoragePlan&, StateReader*, Census&);
ORCHARD_COUNT(1)
ORCHARD_COUNT(2)
ORCHARD_COUNT(3)
#undef ORCHARD_COUNT

}  // namespace orchard::explore
