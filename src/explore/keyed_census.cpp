#include "explore/keyed_census.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <thread>

#include "explore/key_set.hpp"
#include "explore/keyed_expander.hpp"
#include "explore/renamings.hpp"
#include "explore/sampled_games.hpp"
#include "explore/saved_state.hpp"

namespace orchard::explore {

namespace {

constexpr std::size_t parts = key_parts;
// As many are found before they are put into the sets.
constexpr std::uint64_t enough_found = 4'000'000;

std::string state_name(const LaneGame& game, std::span<const std::uint64_t> start,
                       const CensusOptions& options) {
  return state_of(game, start) + (options.symmetry ? "" : ", every position");
}

// One count from the start to its end, or to the first fault.
template <std::size_t words>
class KeyedCount {
 public:
  // `mended`: rows that were shown to the finder of the code, kept with what is saved.
  KeyedCount(const KeyedGame& game, std::span<const std::uint64_t> start,
             const CensusOptions& options, Stopwatch& stopwatch,
             const std::vector<std::uint64_t>& mended)
      : game_(game),
        start_(start),
        mended_(mended),
        options_(options),
        stopwatch_(stopwatch),
        apart_(game.measure().step != 0) {
    for (unsigned t = 0; t < std::max(1u, options.threads); ++t) workers_.emplace_back(game);
  }

  // The fault that ended it, if there was one; goes on from `saved` if it is given.
  Result<BlockFaults> run(StateReader* saved, Census& census);

 private:
  struct Worker {
    explicit Worker(const KeyedGame& game) : expander(game) {}
    KeyedExpander<words> expander;
    BlockCounts counts;
    BlockFaults faults;
    KeyParts<words> found;
  };
  using OneKey = Key<words>;
  using Keys = std::vector<OneKey>;

  void insert(std::size_t part, const OneKey& key) {
    if (reached_[part].insert(key) && !apart_) next_layer_[part].push_back(key);
  }
  std::span<const OneKey> layer_part(std::size_t part) const {
    return apart_ ? left_[part].places() : std::span<const OneKey>(layer_[part]);
  }
  bool gather();
  void expand(bool goes_on);
  void collect();
  std::uint64_t found() const;
  template <class Work>
  void in_threads(std::size_t jobs, Work&& work);
  std::uint64_t reached() const;
  std::uint64_t positions() const;
  std::uint64_t bytes() const;
  std::optional<Ending> over_budget();
  void enter_next_layer();

  Diagnostics save(const Census& census);
  void load(StateReader& saved, Census& census);

  const KeyedGame& game_;
  const std::span<const std::uint64_t> start_;
  const std::vector<std::uint64_t>& mended_;
  const CensusOptions& options_;
  Stopwatch& stopwatch_;
  const bool apart_;  // layers are known to be disjoint
  std::vector<Worker> workers_;
  // If layers are apart: the one entered and the one left. Else every key, and the two in lists.
  std::array<KeySet<words>, parts> reached_;
  std::array<KeySet<words>, parts> left_;
  std::array<Keys, parts> layer_;
  std::array<Keys, parts> next_layer_;
  std::uint64_t before_ = 0;  // positions of the layers before, where they are not kept
  std::uint64_t depth_ = 0;
  std::uint64_t keys_done_ = 0;       // of the layers before …
  std::uint64_t positions_done_ = 0;  // … and what they stood for
  bool in_layer_ = false;             // it has been entered
  bool finished_ = false;
  // The keys taken from the layer for the next round, 512 a block; and what was taken up to here.
  std::vector<Keys> blocks_;
  std::size_t taken_part_ = 0;
  std::size_t taken_ = 0;
};

template <std::size_t words>
template <class Work>
void KeyedCount<words>::in_threads(std::size_t jobs, Work&& work) {
  std::atomic<std::size_t> next{0};
  const auto serve = [&](Worker& worker) {
    for (std::size_t job = next++; job < jobs; job = next++) work(worker, job);
  };
  std::vector<std::jthread> helpers;
  for (std::size_t t = 1; t < workers_.size(); ++t) {
    helpers.emplace_back([&, t] { serve(workers_[t]); });
  }
  serve(workers_[0]);
}

// The next keys of the layer; false if there are none left.
template <std::size_t words>
bool KeyedCount<words>::gather() {
  constexpr std::size_t most_blocks = 128;
  blocks_.clear();
  while (taken_part_ < parts && blocks_.size() < most_blocks) {
    const std::span<const OneKey> keys = layer_part(taken_part_);
    if (taken_ == keys.size()) {
      ++taken_part_;
      taken_ = 0;
      continue;
    }
    if (blocks_.empty() || blocks_.back().size() == LaneEvaluator::most) blocks_.emplace_back();
    Keys& block = blocks_.back();
    for (; taken_ < keys.size() && block.size() < LaneEvaluator::most; ++taken_) {
      if (same_key(keys[taken_], KeySet<words>::free_place)) continue;
      block.push_back(unmixed_key(keys[taken_]));
    }
  }
  if (!blocks_.empty() && blocks_.back().empty()) blocks_.pop_back();
  return !blocks_.empty();
}

template <std::size_t words>
void KeyedCount<words>::expand(bool goes_on) {
  in_threads(blocks_.size(), [&](Worker& worker, std::size_t job) {
    if (worker.faults.any()) return;
    worker.faults =
        worker.expander.expand(blocks_[job], depth_, goes_on, worker.counts, worker.found);
  });
}

// What the workers found, into the sets: a part is the work of one of them.
template <std::size_t words>
void KeyedCount<words>::collect() {
  in_threads(parts, [&](Worker&, std::size_t part) {
    constexpr std::size_t ahead = 16;
    for (Worker& worker : workers_) {
      Keys& keys = worker.found[part];
      for (std::size_t i = 0; i < keys.size(); ++i) {
        if (i + ahead < keys.size()) reached_[part].prefetch(keys[i + ahead]);
        insert(part, keys[i]);
      }
      keys.clear();
    }
  });
}

template <std::size_t words>
std::uint64_t KeyedCount<words>::found() const {
  std::uint64_t result = 0;
  for (const Worker& worker : workers_) result += worker.found.size();
  return result;
}

template <std::size_t words>
std::uint64_t KeyedCount<words>::reached() const {
  std::uint64_t result = before_;
  for (const auto& set : reached_) result += set.size();
  return result;
}

template <std::size_t words>
std::uint64_t KeyedCount<words>::positions() const {
  BlockCounts counts;
  for (const Worker& worker : workers_) counts.add(worker.counts);
  return positions_done_ + counts.positions + (reached() - keys_done_ - counts.keys);
}

template <std::size_t words>
std::uint64_t KeyedCount<words>::bytes() const {
  std::uint64_t result = 0;
  for (std::size_t part = 0; part < parts; ++part) {
    result += reached_[part].bytes() + left_[part].bytes() +
              (layer_[part].capacity() + next_layer_[part].capacity()) * sizeof(OneKey);
  }
  for (const Worker& worker : workers_) result += worker.found.bytes();
  return result;
}

template <std::size_t words>
std::optional<Ending> KeyedCount<words>::over_budget() {
  const Budget& budget = options_.budget;
  if (budget.memory_bytes && bytes() > *budget.memory_bytes) return Ending::memory;
  return stopwatch_.check(positions(), depth_);
}

template <std::size_t words>
void KeyedCount<words>::enter_next_layer() {
  taken_part_ = 0;
  taken_ = 0;
  if (apart_) before_ = reached();
  std::uint64_t left = 0;
  std::uint64_t entered = 0;
  for (std::size_t part = 0; part < parts; ++part) {
    left += left_[part].size();
    entered += reached_[part].size();
  }
  // Layers rarely grow more than the last one did.
  const double growth = left > 0 ? static_cast<double>(entered) / static_cast<double>(left) : 1;
  for (std::size_t part = 0; part < parts; ++part) {
    if (apart_) {
      left_[part] = std::move(reached_[part]);
      reached_[part] = {};
      reached_[part].reserve(
          static_cast<std::uint64_t>(static_cast<double>(left_[part].size()) * growth));
    } else {
      layer_[part] = std::move(next_layer_[part]);
      next_layer_[part] = {};
    }
  }
}

// Between rounds, when nothing found is waiting.
template <std::size_t words>
Diagnostics KeyedCount<words>::save(const Census& census) {
  StateWriter writer(options_.budget.checkpoint->folder, "keys",
                     state_name(game_.game(), start_, options_));
  BlockCounts counts;
  for (const Worker& worker : workers_) counts.add(worker.counts);
  writer.put("at", std::vector<std::uint64_t>{depth_, before_, taken_part_, taken_,
                                              counts.positions, counts.terminal, counts.stuck,
                                              counts.open, apart_, in_layer_, finished_,
                                              counts.keys, keys_done_, positions_done_});
  std::vector<std::uint64_t> rows;
  for (const CensusDepth& row : census.depths) {
    rows.insert(rows.end(), {row.positions, row.terminal, row.stuck});
  }
  writer.put("depths", rows);
  writer.put("mended", mended_);
  for (std::size_t part = 0; part < parts; ++part) {
    const auto put = [&](const char* name, std::span<const OneKey> keys) {
      writer.put(fmt::format("{} {}", name, part), keys);
    };
    put("reached", reached_[part].places());
    put("left", left_[part].places());
    put("layer", layer_[part]);
    put("next", next_layer_[part]);
  }
  stopwatch_.saved();
  return writer.finish();
}

template <std::size_t words>
void KeyedCount<words>::load(StateReader& saved, Census& census) {
  const auto at = saved.get<std::uint64_t>("at");
  depth_ = at.at(0);
  before_ = at.at(1);
  taken_part_ = at.at(2);
  taken_ = at.at(3);
  workers_[0].counts = {at.at(11), at.at(4), at.at(5), at.at(6), at.at(7) != 0};
  in_layer_ = at.at(9) != 0;
  finished_ = at.at(10) != 0;
  keys_done_ = at.at(12);
  positions_done_ = at.at(13);
  const auto rows = saved.get<std::uint64_t>("depths");
  for (std::size_t d = 0; d * 3 < rows.size(); ++d) {
    census.depths.push_back({d, rows[d * 3], rows[d * 3 + 1], rows[d * 3 + 2], {}});
  }
  for (std::size_t part = 0; part < parts; ++part) {
    const auto get = [&](const char* name) {
      return saved.get<OneKey>(fmt::format("{} {}", name, part));
    };
    reached_[part].restore(get("reached"));
    left_[part].restore(get("left"));
    layer_[part] = get("layer");
    next_layer_[part] = get("next");
  }
}

template <std::size_t words>
Result<BlockFaults> KeyedCount<words>::run(StateReader* saved, Census& census) {
  if (saved != nullptr) {
    load(*saved, census);
  } else {
    const std::vector<std::uint64_t> key = game_.code().key(start_).value();
    OneKey start{};
    std::ranges::copy(key, start.begin());
    start = mixed_key(start);
    insert(KeyParts<words>::part_of(start), start);
  }
  census.positions = positions();
  census.complete = finished_;
  if (options_.depth && depth_ > *options_.depth) {  // saved by a deeper count
    const std::size_t asked = *options_.depth + 1;
    census.complete = finished_ && census.depths.size() <= asked;
    if (census.depths.size() > asked) census.depths.resize(asked);
    census.positions = 0;
    for (const CensusDepth& row : census.depths) census.positions += row.positions;
    return BlockFaults{};
  }
  const auto saved_now = [&] { return options_.budget.checkpoint ? save(census) : Diagnostics{}; };
  for (; !finished_; ++depth_) {
    if (!in_layer_) {
      enter_next_layer();
      in_layer_ = true;
    }
    const bool last = options_.depth && depth_ >= *options_.depth;
    for (bool more = true; more;) {
      more = gather();
      expand(!last);
      for (const Worker& worker : workers_) {
        if (worker.faults.any()) return worker.faults;
      }
      if (more && found() < enough_found && !stopwatch_.save_is_due()) continue;
      collect();
      census.positions = positions();
      census.peak_bytes = std::max(census.peak_bytes, bytes());
      if (const auto ending = over_budget()) {
        census.ending = *ending;
        // What a last layer counts is no part of what can be gone on from.
        if (Diagnostics faults = last ? Diagnostics{} : saved_now(); !faults.empty()) return faults;
        return BlockFaults{};
      }
      if (stopwatch_.save_is_due() && !last) {
        if (Diagnostics faults = save(census); !faults.empty()) return faults;
      }
    }
    CensusDepth row;
    row.depth = depth_;
    BlockCounts counts;
    for (const Worker& worker : workers_) counts.add(worker.counts);
    row.positions = counts.positions;
    row.terminal = counts.terminal;
    row.stuck = counts.stuck;
    if (row.positions > 0) census.depths.push_back(row);
    in_layer_ = false;
    keys_done_ += counts.keys;
    positions_done_ += counts.positions;
    for (Worker& worker : workers_) worker.counts = {};
    census.positions = positions();
    if (last) {
      census.complete = !counts.open;
      return BlockFaults{};
    }
    finished_ = !counts.open;
    census.complete = finished_;
    if (!finished_ && options_.budget.positions && census.positions >= *options_.budget.positions) {
      ++depth_;
      census.ending = Ending::positions;
      if (Diagnostics faults = saved_now(); !faults.empty()) return faults;
      return BlockFaults{};
    }
  }
  if (Diagnostics faults = saved_now(); !faults.empty()) return faults;
  return BlockFaults{};
}

}  // namespace

Result<std::optional<Census>> keyed_census(const LaneGame& game,
                                           std::span<const std::uint64_t> start,
                                           const CensusOptions& options) {
  if (!KeyedGame::can_be_made(game)) return std::optional<Census>();
  // A number of positions ends it between layers only, so that it is the same for any threads.
  Budget budget = options.budget;
  budget.positions.reset();
  Stopwatch stopwatch(budget);
  const Renamings renamings = options.symmetry ? renamings_of(game, start) : Renamings{};
  CodeFinder finder(game.ground());
  const auto show = [&](std::span<const std::uint64_t> row) {
    finder.observe(row);
    for (const auto& renaming : renamings) finder.observe(renamed(row, renaming));
  };
  MeasureFinder measures(game.ground());
  SampledGames samples(game);
  Random random(1);
  constexpr std::size_t most_plies = 400;
  constexpr std::size_t enough_rows = 20'000;
  std::size_t seen = 0;
  for (int batch = 0; batch < 8 && seen < enough_rows; ++batch) {
    samples.play(LaneEvaluator::most, start, random, most_plies,
                 [&](std::span<const std::uint64_t> rows,
                     std::span<const SampledGames::Place> places, const LaneEvaluator& lanes) {
                   for (std::size_t at = 0; at < places.size(); ++at) {
                     const auto row = rows.subspan(at * lanes.words(), lanes.words());
                     show(row);
                     measures.observe(row, places[at].ply);
                   }
                   seen += places.size();
                 });
  }
  const Measure measure = measures.measure();
  std::vector<std::uint64_t> mended;  // rows, one behind the other
  const auto mend = [&](std::span<const std::uint64_t> row) {
    show(row);
    mended.insert(mended.end(), row.begin(), row.end());
  };
  std::unique_ptr<StateReader> saved;
  if (options.budget.checkpoint) {
    auto opened = StateReader::open(options.budget.checkpoint->folder, "keys",
                                    state_name(game, start, options));
    if (!opened) return opened.diagnostics();
    saved = std::move(opened).value();
  }
  bool layers = options.store != CensusStore::keys && measure.step != 0;
  if (saved) {
    const auto rows = saved->get<std::uint64_t>("mended");
    for (std::size_t at = 0; at < rows.size(); at += start.size()) {
      mend(std::span(rows).subspan(at, start.size()));
    }
    layers = saved->get<std::uint64_t>("at").at(8) != 0;
  }
  constexpr int most_attempts = 200;
  for (int attempt = 0; attempt < most_attempts; ++attempt) {
    PositionCode code = finder.code();
    const Renamings within =
        keeps_code(code, renamings) ? renamings_within(renamings, code) : Renamings{};
    const auto keyed = KeyedGame::make(game, std::move(code), layers ? measure : Measure{}, within);
    if (!keyed || !keyed->code().key(start)) return std::optional<Census>();
    Census census;
    const auto count_with = [&]<std::size_t words>() {
      return KeyedCount<words>(*keyed, start, options, stopwatch, mended).run(saved.get(), census);
    };
    const std::size_t words = keyed->code().words();
    const auto faults = words == 1   ? count_with.template operator()<1>()
                        : words == 2 ? count_with.template operator()<2>()
                                     : count_with.template operator()<3>();
    if (!faults) return faults.diagnostics();
    saved.reset();
    if (faults->joint_moves) return std::optional<Census>();
    if (!faults->any()) {
      census.seconds = stopwatch.seconds();
      census.store = fmt::format(
          "keys of {} bits{}, {}", keyed->code().bits,
          within.empty() ? "" : fmt::format(", one for up to {} alike", within.size() + 1),
          layers ? "two layers at a time" : "all kept");
      return std::optional(std::move(census));
    }
    if (faults->measure) layers = false;
    if (faults->row) mend(*faults->row);
  }
  return std::optional<Census>();
}

}  // namespace orchard::explore
