#include "orchard/census.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/numeric/int128.h>

#include <algorithm>
#include <sstream>

#include "base/interruption.hpp"
#include "base/saved_state.hpp"
#include "explore/census/expander.hpp"
#include "explore/census/keyed_census.hpp"
#include "explore/census/position_store.hpp"
#include "game/core.hpp"

namespace orchard {
namespace {

// How many joint-move sequences there are; too many to count is remembered as such.
struct SequenceCount {
  absl::uint128 number = 0;
  bool beyond = false;

  void add(const SequenceCount& other) {
    const absl::uint128 sum = number + other.number;
    beyond = beyond || other.beyond || sum < number;
    number = sum;
  }
  std::optional<std::string> text() const {
    if (beyond) return std::nullopt;
    std::ostringstream stream;
    stream << number;
    return stream.str();
  }
};

// Counts positions as they are. With a checkpoint what was found is saved now and then, and gone on
// from: where play would go on from a depth that is the last one asked for nothing more is saved.
class CensusTaker {
 public:
  // `state`: what saved positions belong to, where keys are the same in every run of the program.
  CensusTaker(std::unique_ptr<Expander> expander, const CensusOptions& options,
              std::optional<std::string> state)
      : expander_(std::move(expander)),
        options_(options),
        state_(std::move(state)),
        stopwatch_(options.budget) {}

  Result<Census> run(std::span<const TermId> start);

 private:
  struct Entry {
    std::uint64_t position;
    SequenceCount sequences;
  };

  bool is_last(std::uint64_t depth) const { return options_.depth && depth >= *options_.depth; }
  void begin_layer();
  Diagnostics count_layer();
  Diagnostics count_layers();
  std::uint64_t counted_positions() const;
  void count_block(std::span<const Entry> block);
  void reach(std::string_view key, const SequenceCount& sequences);
  std::optional<Ending> over_budget();
  Diagnostics save() const;
  Result<bool> load();

  std::unique_ptr<Expander> expander_;
  const CensusOptions& options_;
  const std::optional<std::string> state_;
  Stopwatch stopwatch_;
  PositionStore store_;
  Census census_;
  std::vector<Entry> layer_;
  std::uint64_t first_of_layer_ = 0;  // positions from this number on were first reached here
  // Of the layer: how much of it was counted, what came of it, and whether play goes on from some.
  std::uint64_t counted_ = 0;
  CensusDepth row_;
  SequenceCount sequences_;
  bool open_ = false;
  bool left_block_ = false;  // in the middle: what was counted of its layer is of no use
  std::vector<Entry> next_layer_;
  absl::flat_hash_map<std::uint64_t, std::size_t> in_next_layer_;  // only to count sequences
  std::vector<std::string_view> keys_;
};

std::optional<Ending> CensusTaker::over_budget() {
  return stopwatch_.check(store_.size(), census_.depths.size(), store_.bytes());
}

void CensusTaker::reach(std::string_view key, const SequenceCount& sequences) {
  const auto [position, is_new] = store_.add(key);
  if (!options_.sequences) {
    if (is_new) next_layer_.push_back({position, {}});
    return;
  }
  const auto [entry, first_here] = in_next_layer_.try_emplace(position, next_layer_.size());
  if (first_here) next_layer_.push_back({position, {}});
  next_layer_[entry->second].sequences.add(sequences);
}

void CensusTaker::count_block(std::span<const Entry> block) {
  keys_.clear();
  for (const Entry& entry : block) keys_.push_back(store_.key(entry.position));
  expander_->set(keys_);
  for (std::size_t i = 0; i < block.size(); ++i) {
    const Expander::Kind kind = expander_->kind(i);
    open_ = open_ || kind == Expander::Kind::open;
    if (block[i].position < first_of_layer_) continue;  // met before
    ++row_.positions;
    if (kind == Expander::Kind::terminal) ++row_.terminal;
    if (kind == Expander::Kind::stuck) ++row_.stuck;
  }
  if (is_last(row_.depth)) return;
  // Between blocks is soon enough, but where roles choose at once with many moves.
  constexpr std::uint64_t long_block = 1 << 16;
  std::uint64_t reached = 0;
  expander_->expand([&](std::size_t at, std::string_view next) {
    reach(next, block[at].sequences);
    if (++reached % long_block != 0) return;
    if (const auto ending = over_budget()) throw Interrupted{*ending};
  });
}

// Turns to what was reached.
void CensusTaker::begin_layer() {
  layer_ = std::move(next_layer_);
  next_layer_.clear();
  in_next_layer_.clear();
  first_of_layer_ = census_.positions;
  census_.positions = store_.size();
  counted_ = 0;
  row_ = {};
  row_.depth = census_.depths.size();
  sequences_ = {};
  open_ = false;
}

// Counts one depth, or what is left of it, and reaches for the next, until the budget ends.
Diagnostics CensusTaker::count_layer() {
  while (counted_ < layer_.size()) {
    if (const auto ending = over_budget()) {
      census_.ending = *ending;
      return {};
    }
    if (state_ && !is_last(row_.depth) && stopwatch_.save_is_due()) {
      if (Diagnostics faults = save(); !faults.empty()) return faults;
      stopwatch_.saved();
    }
    const std::size_t count = std::min<std::size_t>(expander_->most(), layer_.size() - counted_);
    const auto block = std::span<const Entry>(layer_).subspan(counted_, count);
    for (const Entry& entry : block) sequences_.add(entry.sequences);
    try {
      count_block(block);
    } catch (const Interrupted& interrupted) {
      census_.ending = interrupted.ending;
    }
    left_block_ = census_.ending != Ending::complete;
    if (left_block_) return {};
    counted_ += count;
  }
  if (options_.sequences) row_.sequences = sequences_.text();
  return {};
}

std::uint64_t CensusTaker::counted_positions() const {
  std::uint64_t result = 0;
  for (const CensusDepth& row : census_.depths) result += row.positions;
  return result;
}

Diagnostics CensusTaker::count_layers() {
  const bool saves = state_ && options_.budget.checkpoint;
  bool last = false;
  while (!layer_.empty() && !last) {
    last = is_last(row_.depth);
    if (saves && last && counted_ == 0) {
      if (Diagnostics faults = save(); !faults.empty()) return faults;
    }
    if (Diagnostics faults = count_layer(); !faults.empty()) return faults;
    if (census_.ending != Ending::complete) break;
    census_.depths.push_back(row_);
    if (!last) begin_layer();
  }
  if (saves && !last && !left_block_) {
    if (Diagnostics faults = save(); !faults.empty()) return faults;
  }
  const bool ended = census_.ending == Ending::complete;
  census_.complete = ended && (layer_.empty() || !open_);
  // What a deeper count had reached beyond is not asked for.
  census_.positions = ended ? counted_positions() : store_.size();
  return {};
}

Result<Census> CensusTaker::run(std::span<const TermId> start) {
  bool loaded = false;
  if (state_ && options_.budget.checkpoint) {
    const auto found = load();
    if (!found) return found.diagnostics();
    loaded = *found;
  }
  if (!loaded) {
    reach(expander_->key_of(start), {1, false});
    begin_layer();
  }
  if (options_.depth && census_.depths.size() > *options_.depth) {
    // More is known than is asked for.
    census_.depths.resize(*options_.depth + 1);
    const CensusDepth& last = census_.depths.back();
    census_.complete = layer_.empty() && last.positions == last.terminal + last.stuck;
    census_.positions = counted_positions();
  } else {
    if (Diagnostics faults = count_layers(); !faults.empty()) return faults;
  }
  census_.store = "positions as they are";
  census_.peak_bytes = store_.bytes();
  census_.seconds = stopwatch_.seconds();
  return std::move(census_);
}

// Arrays of a saved census; entries and rows are some numbers each.
constexpr std::size_t numbers_of_entry = 4;
constexpr std::size_t numbers_of_row = 3;

Diagnostics CensusTaker::save() const {
  StateWriter writer(options_.budget.checkpoint->folder, "positions", *state_);
  std::vector<char> keys;
  const std::uint64_t key_bytes = store_.size() > 0 ? store_.key(0).size() : 0;
  keys.reserve(store_.size() * key_bytes);
  for (std::uint64_t p = 0; p < store_.size(); ++p) {
    keys.insert(keys.end(), store_.key(p).begin(), store_.key(p).end());
  }
  writer.put("keys", keys);
  const auto put_entries = [&](const std::string& name, const std::vector<Entry>& entries) {
    std::vector<std::uint64_t> numbers;
    for (const Entry& entry : entries) {
      numbers.insert(numbers.end(), {entry.position, absl::Uint128Low64(entry.sequences.number),
                                     absl::Uint128High64(entry.sequences.number),
                                     entry.sequences.beyond ? 1u : 0u});
    }
    writer.put(name, numbers);
  };
  put_entries("layer", layer_);
  put_entries("next layer", next_layer_);
  put_entries("sequences", {{0, sequences_}});
  std::vector<std::uint64_t> rows;
  std::vector<char> sequences;  // of the depths counted, a line each
  const auto put_row = [&](const CensusDepth& row) {
    rows.insert(rows.end(), {row.positions, row.terminal, row.stuck});
  };
  for (const CensusDepth& row : census_.depths) {
    put_row(row);
    const std::string text = row.sequences.value_or("") + "\n";
    sequences.insert(sequences.end(), text.begin(), text.end());
  }
  put_row(row_);
  writer.put("rows", rows);
  writer.put("sequences of rows", sequences);
  writer.put("counted", std::vector<std::uint64_t>{store_.size(), key_bytes, census_.positions,
                                                   first_of_layer_, counted_, open_ ? 1u : 0u});
  return writer.finish();
}

Result<bool> CensusTaker::load() {
  auto opened = StateReader::open(options_.budget.checkpoint->folder, "positions", *state_);
  if (!opened) return opened.diagnostics();
  if (*opened == nullptr) return false;
  StateReader& saved = **opened;
  const auto counted = saved.get<std::uint64_t>("counted");
  const auto keys = saved.get<char>("keys");
  const std::size_t key_bytes = counted.at(1);
  for (std::uint64_t p = 0; p < counted.at(0); ++p) {
    store_.add(std::string_view(keys.data() + p * key_bytes, key_bytes));
  }
  census_.positions = counted.at(2);
  first_of_layer_ = counted.at(3);
  counted_ = counted.at(4);
  open_ = counted.at(5) != 0;
  const auto get_entries = [&](const std::string& name) {
    const auto numbers = saved.get<std::uint64_t>(name);
    std::vector<Entry> entries;
    for (std::size_t at = 0; at + numbers_of_entry <= numbers.size(); at += numbers_of_entry) {
      entries.push_back(
          {numbers[at],
           {absl::MakeUint128(numbers[at + 2], numbers[at + 1]), numbers[at + 3] != 0}});
    }
    return entries;
  };
  layer_ = get_entries("layer");
  next_layer_ = get_entries("next layer");
  sequences_ = get_entries("sequences").at(0).sequences;
  for (std::size_t i = 0; options_.sequences && i < next_layer_.size(); ++i) {
    in_next_layer_.emplace(next_layer_[i].position, i);
  }
  const auto rows = saved.get<std::uint64_t>("rows");
  const auto sequences = saved.get<char>("sequences of rows");
  std::istringstream lines(std::string(sequences.begin(), sequences.end()));
  for (std::size_t at = 0; at + numbers_of_row <= rows.size(); at += numbers_of_row) {
    CensusDepth row{census_.depths.size(), rows[at], rows[at + 1], rows[at + 2], {}};
    if (at + numbers_of_row == rows.size()) {
      row_ = row;
      break;
    }
    std::string text;
    std::getline(lines, text);
    if (options_.sequences && !text.empty()) row.sequences = text;
    census_.depths.push_back(std::move(row));
  }
  return true;
}

}  // namespace

namespace {

// How many positions are counted as they are before keys are made.
constexpr std::uint64_t few_positions = 30'000;

// On keys, if the game has them.
Result<std::optional<Census>> by_keys(const GameCore& core, std::span<const TermId> start,
                                      const CensusOptions& options) {
  const LaneGame* const lanes = core.lanes();
  if (lanes == nullptr || options.sequences) return std::optional<Census>();
  const auto bits = lanes->bits({start.begin(), start.end()});
  if (!bits) return std::optional<Census>();
  return explore::keyed_census(*lanes, lanes->row(*bits), options);
}

// What a census of positions as they are is saved for, if it can be: where the circuit keys them.
std::optional<std::string> state_for(const GameCore& core, std::span<const TermId> start,
                                     const CensusOptions& options) {
  const LaneGame* const lanes = core.lanes();
  if (lanes == nullptr || lanes->guided()) return std::nullopt;
  const auto bits = lanes->bits({start.begin(), start.end()});
  if (!bits) return std::nullopt;
  return lanes->identity(lanes->row(*bits)) + (options.sequences ? ", sequences" : "");
}

Result<Census> plain_census(const GameCore& core, std::span<const TermId> start,
                            const CensusOptions& options) {
  try {
    try {
      return CensusTaker(make_expander(core, start), options, state_for(core, start, options))
          .run(start);
    } catch (const Undeclared&) {
      return CensusTaker(make_reference_expander(core), options, {}).run(start);
    }
  } catch (const logic::LimitExceeded& limit) {
    return core.too_large(limit);
  }
}

}  // namespace

namespace {

Result<Census> taken_census(const Game& game, const CensusOptions& options) {
  const GameCore& core = *GameAccess::core(game);
  const Position& from = options.from ? *options.from : game.initial();
  const std::vector<TermId>& start = GameAccess::state(from).fluents();
  if (options.store == CensusStore::plain) return plain_census(core, start, options);
  Census counted;  // as far as it is known
  if (options.store == CensusStore::automatic) {
    CensusOptions few = options;
    few.budget.checkpoint.reset();
    few.budget.positions =
        std::min(options.budget.positions.value_or(few_positions), few_positions);
    auto census = plain_census(core, start, few);
    // Keys take less memory than positions as they are.
    const bool more = census && ((census->ending == Ending::positions &&
                                  few.budget.positions != options.budget.positions) ||
                                 census->ending == Ending::memory);
    if (!more) return census;
    counted = std::move(*census);
  }
  try {
    auto census = by_keys(core, start, options);
    if (!census) return census.diagnostics();
    if (*census) return std::move(**census);
  } catch (const Interrupted& interrupted) {
    counted.ending = interrupted.ending;
    return counted;
  }
  if (options.budget.checkpoint && !state_for(core, start, options)) {
    return plain_error("cannot-save",
                       "a census of this game cannot be saved: it has no complete circuit, so the "
                       "reference evaluator counts it",
                       "omit --checkpoint");
  }
  return plain_census(core, start, options);
}

}  // namespace

Result<Census> take_census(const Game& game, const CensusOptions& options) {
  const Interruption interruption(options.budget);
  const Stopwatch clock(options.budget);
  try {
    return taken_census(game, options);
  } catch (const Interrupted& interrupted) {  // before a position was counted
    Census nothing;
    nothing.ending = interrupted.ending;
    nothing.seconds = clock.seconds();
    return nothing;
  }
}

}  // namespace orchard
