#include "orchard/census.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/numeric/int128.h>

#include <algorithm>
#include <sstream>

#include "explore/expander.hpp"
#include "explore/keyed_census.hpp"
#include "explore/position_store.hpp"
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

class CensusTaker {
 public:
  CensusTaker(std::unique_ptr<Expander> expander, const CensusOptions& options)
      : expander_(std::move(expander)), options_(options), stopwatch_(options.budget) {}

  Census run(std::span<const TermId> start);

 private:
  struct Entry {
    std::uint64_t position;
    SequenceCount sequences;
  };

  bool count_layer(CensusDepth& row);
  void count_block(std::span<const Entry> block, bool last, CensusDepth& row);
  void reach(std::string_view key, const SequenceCount& sequences);
  std::optional<Ending> over_budget();

  std::unique_ptr<Expander> expander_;
  const CensusOptions& options_;
  Stopwatch stopwatch_;
  PositionStore store_;
  Census census_;
  std::vector<Entry> layer_;
  std::uint64_t first_of_layer_ = 0;  // positions from this number on were first reached here
  std::vector<Entry> next_layer_;
  absl::flat_hash_map<std::uint64_t, std::size_t> in_next_layer_;  // only to count sequences
  bool open_ = false;  // the layer has positions that play goes on from
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

void CensusTaker::count_block(std::span<const Entry> block, bool last, CensusDepth& row) {
  keys_.clear();
  for (const Entry& entry : block) keys_.push_back(store_.key(entry.position));
  expander_->set(keys_);
  for (std::size_t i = 0; i < block.size(); ++i) {
    const Expander::Kind kind = expander_->kind(i);
    open_ = open_ || kind == Expander::Kind::open;
    if (block[i].position < first_of_layer_) continue;  // met before
    ++row.positions;
    if (kind == Expander::Kind::terminal) ++row.terminal;
    if (kind == Expander::Kind::stuck) ++row.stuck;
  }
  if (last) return;
  expander_->expand(
      [&](std::size_t at, std::string_view next) { reach(next, block[at].sequences); });
}

// Counts one depth and reaches for the next. False if the budget ended on the way.
bool CensusTaker::count_layer(CensusDepth& row) {
  const bool last = options_.depth && row.depth >= *options_.depth;
  SequenceCount sequences;
  open_ = false;
  for (std::size_t first = 0; first < layer_.size(); first += expander_->most()) {
    if (const auto ending = over_budget()) {
      census_.ending = *ending;
      return false;
    }
    const std::size_t count = std::min(expander_->most(), layer_.size() - first);
    const auto block = std::span<const Entry>(layer_).subspan(first, count);
    for (const Entry& entry : block) sequences.add(entry.sequences);
    count_block(block, last, row);
  }
  if (options_.sequences) row.sequences = sequences.text();
  return true;
}

Census CensusTaker::run(std::span<const TermId> start) {
  reach(expander_->key_of(start), {1, false});
  while (true) {
    layer_ = std::move(next_layer_);
    next_layer_.clear();
    in_next_layer_.clear();
    if (layer_.empty()) break;
    first_of_layer_ = census_.positions;
    census_.positions = store_.size();
    CensusDepth row;
    row.depth = census_.depths.size();
    if (!count_layer(row)) break;
    census_.depths.push_back(row);
    if (options_.depth && row.depth >= *options_.depth) break;
  }
  census_.complete = census_.ending == Ending::complete && (layer_.empty() || !open_);
  census_.positions = store_.size();
  census_.store = "positions as they are";
  census_.peak_bytes = store_.bytes();
  census_.seconds = stopwatch_.seconds();
  return census_;
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

Result<Census> plain_census(const GameCore& core, std::span<const TermId> start,
                            const CensusOptions& options) {
  try {
    try {
      return CensusTaker(make_expander(core, start), options).run(start);
    } catch (const Undeclared&) {
      return CensusTaker(make_reference_expander(core), options).run(start);
    }
  } catch (const logic::LimitExceeded& limit) {
    return core.too_large(limit);
  }
}

}  // namespace

Result<Census> take_census(const Game& game, const CensusOptions& options) {
  const GameCore& core = *GameAccess::core(game);
  const Position& from = options.from ? *options.from : game.initial();
  const std::vector<TermId>& start = GameAccess::state(from).fluents();
  if (options.store == CensusStore::plain) return plain_census(core, start, options);
  if (options.store == CensusStore::automatic) {
    CensusOptions few = options;
    few.budget.positions =
        std::min(options.budget.positions.value_or(few_positions), few_positions);
    auto census = plain_census(core, start, few);
    // Keys take less memory than positions as they are.
    const bool more = census && ((census->ending == Ending::positions &&
                                  few.budget.positions != options.budget.positions) ||
                                 census->ending == Ending::memory);
    if (!more) return census;
  }
  auto census = by_keys(core, start, options);
  if (!census) return census.diagnostics();
  if (*census) return std::move(**census);
  if (options.budget.checkpoint) {
    return plain_error(
        "cannot-save",
        options.sequences ? "a census that counts sequences cannot be saved"
                          : "a census of this game cannot be saved: its positions are too long for "
                            "keys, or it has too many joint moves",
        "leave --checkpoint away");
  }
  return plain_census(core, start, options);
}

}  // namespace orchard
