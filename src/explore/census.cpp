#include "orchard/census.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/numeric/int128.h>

#include <algorithm>
#include <sstream>

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
  CensusTaker(const GameCore& core, const CensusOptions& options)
      : evaluator_(core), options_(options), stopwatch_(options.budget) {}

  Census run(std::span<const TermId> start);

 private:
  struct Entry {
    std::uint64_t position;
    SequenceCount sequences;
  };

  bool count_layer(CensusDepth& row);
  void expand(const std::vector<std::vector<TermId>>& legal, const SequenceCount& sequences);
  void reach(std::span<const TermId> fluents, const SequenceCount& sequences);
  std::optional<Ending> over_budget();

  GameCore::Lease evaluator_;
  const CensusOptions& options_;
  Stopwatch stopwatch_;
  PositionStore store_;
  Census census_;
  std::vector<Entry> layer_;
  std::uint64_t first_of_layer_ = 0;  // positions from this number on were first reached here
  std::vector<Entry> next_layer_;
  absl::flat_hash_map<std::uint64_t, std::size_t> in_next_layer_;  // only to count sequences
  bool open_ = false;  // the layer has positions that play goes on from
  std::vector<TermId> fluents_;
};

std::optional<Ending> CensusTaker::over_budget() {
  const Budget& budget = options_.budget;
  if (budget.memory_bytes && store_.bytes() > *budget.memory_bytes) return Ending::memory;
  return stopwatch_.check(store_.size(), census_.depths.size());
}

void CensusTaker::reach(std::span<const TermId> fluents, const SequenceCount& sequences) {
  const auto [position, is_new] = store_.add(fluents);
  if (!options_.sequences) {
    if (is_new) next_layer_.push_back({position, {}});
    return;
  }
  const auto [entry, first_here] = in_next_layer_.try_emplace(position, next_layer_.size());
  if (first_here) next_layer_.push_back({position, {}});
  next_layer_[entry->second].sequences.add(sequences);
}

// All joint moves: every choice of one legal move a role, counted up like an odometer.
void CensusTaker::expand(const std::vector<std::vector<TermId>>& legal,
                         const SequenceCount& sequences) {
  std::vector<std::size_t> choice(legal.size(), 0);
  std::vector<TermId> joint(legal.size());
  std::size_t role = 0;
  while (role < legal.size()) {
    for (std::size_t r = 0; r < legal.size(); ++r) joint[r] = legal[r][choice[r]];
    evaluator_->set_joint_move(joint);
    reach(evaluator_->next(), sequences);
    for (role = 0; role < legal.size() && ++choice[role] == legal[role].size(); ++role) {
      choice[role] = 0;
    }
  }
}

// Counts one depth and reaches for the next. False if the budget ended on the way.
bool CensusTaker::count_layer(CensusDepth& row) {
  const bool last = options_.depth && row.depth >= *options_.depth;
  SequenceCount sequences;
  open_ = false;
  for (const Entry& entry : layer_) {
    if (const auto ending = over_budget()) {
      census_.ending = *ending;
      return false;
    }
    sequences.add(entry.sequences);
    const bool first_here = entry.position >= first_of_layer_;
    store_.fetch(entry.position, fluents_);
    evaluator_->set_position(fluents_);
    if (first_here) ++row.positions;
    if (evaluator_->terminal()) {
      if (first_here) ++row.terminal;
      continue;
    }
    const auto legal = evaluator_->legal();
    if (std::ranges::any_of(legal, [](const auto& moves) { return moves.empty(); })) {
      if (first_here) ++row.stuck;
      continue;
    }
    open_ = true;
    if (!last) expand(legal, entry.sequences);
  }
  if (options_.sequences) row.sequences = sequences.text();
  return true;
}

Census CensusTaker::run(std::span<const TermId> start) {
  reach(start, {1, false});
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
  census_.seconds = stopwatch_.seconds();
  return census_;
}

}  // namespace

Result<Census> take_census(const Game& game, const CensusOptions& options) {
  const GameCore& core = *GameAccess::core(game);
  const Position& from = options.from ? *options.from : game.initial();
  try {
    return CensusTaker(core, options).run(GameAccess::state(from).fluents);
  } catch (const logic::LimitExceeded& limit) {
    return core.too_large(limit);
  }
}

}  // namespace orchard
