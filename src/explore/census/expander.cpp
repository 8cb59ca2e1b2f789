#include "explore/census/expander.hpp"

#include <absl/container/flat_hash_map.h>

#include <algorithm>
#include <cstring>

#include "explore/sampling/joint_moves.hpp"
#include "game/lane_evaluator.hpp"
#include "game/step_batch.hpp"

namespace orchard {
namespace {

// A key is the ascending numbers of the fluents (numbered in the order of meeting), each as the
// difference from the one before in a variable number of bytes.
class ReferenceExpander : public Expander {
 public:
  explicit ReferenceExpander(const GameCore& core) : evaluator_(core, true) {}

  std::string key_of(std::span<const TermId> fluents) override {
    pack(fluents);
    return key_;
  }
  std::size_t most() const override { return 1; }
  void set(std::span<const std::string_view> keys) override {
    kind_ = Kind::open;
    if (keys.empty()) return;
    unpack(keys.front());
    evaluator_->set_position(fluents_);
    if (evaluator_->terminal()) {
      kind_ = Kind::terminal;
      return;
    }
    legal_ = evaluator_->legal();
    const auto none = [](const auto& moves) { return moves.empty(); };
    if (std::ranges::any_of(legal_, none)) kind_ = Kind::stuck;
  }
  Kind kind(std::size_t /*at*/) const override { return kind_; }
  void expand(const Visit& visit) override {
    if (kind_ != Kind::open) return;
    explore::each_joint_move(legal_, [&](const std::vector<TermId>& joint) {
      evaluator_->set_joint_move(joint);
      pack(evaluator_->next());
      visit(0, key_);
    });
  }

 private:
  void pack(std::span<const TermId> fluents) {
    numbers_.clear();
    for (const TermId fluent : fluents) {
      const auto [entry, is_new] =
          number_of_fluent_.try_emplace(fluent, static_cast<std::uint32_t>(met_.size()));
      if (is_new) met_.push_back(fluent);
      numbers_.push_back(entry->second);
    }
    std::ranges::sort(numbers_);
    key_.clear();
    std::uint32_t last = 0;
    for (const std::uint32_t number : numbers_) {
      std::uint32_t step = number - last;
      for (; step >= 0x80; step >>= 7) key_ += static_cast<char>(step | 0x80);
      key_ += static_cast<char>(step);
      last = number;
    }
  }
  void unpack(std::string_view key) {
    fluents_.clear();
    std::uint32_t last = 0;
    std::uint32_t step = 0;
    int shift = 0;
    for (const char byte : key) {
      step |= (static_cast<std::uint32_t>(byte) & 0x7F) << shift;
      shift += 7;
      if (static_cast<unsigned char>(byte) >= 0x80) continue;
      last += step;
      fluents_.push_back(met_[last]);
      step = 0;
      shift = 0;
    }
  }

  GameCore::Lease evaluator_;
  Kind kind_ = Kind::open;
  std::vector<std::vector<TermId>> legal_;
  std::vector<TermId> fluents_;
  absl::flat_hash_map<TermId, std::uint32_t> number_of_fluent_;
  std::vector<TermId> met_;             // fluents by number
  std::vector<std::uint32_t> numbers_;  // scratch
  std::string key_;
};

// A key is the bits of the fluents, in as many bytes as they need (the first one lowest).
class LaneExpander : public Expander {
 public:
  explicit LaneExpander(const LaneGame& game)
      : game_(game),
        positions_(game),
        steps_(game),
        bytes_((game.ground().fluents().size() + 7) / 8),
        roles_(game.ground().moves().size()) {}

  std::string key_of(std::span<const TermId> fluents) override {
    const std::vector<bool> bits = game_.bits({fluents.begin(), fluents.end()}).value();
    return std::string(key(game_.row(bits)));
  }
  std::size_t most() const override { return circuit::lanes; }

  void set(std::span<const std::string_view> keys) override {
    count_ = keys.size();
    rows_.assign(count_ * positions_.words(), 0);
    for (std::size_t at = 0; at < count_; ++at) {
      std::memcpy(rows_.data() + at * positions_.words(), keys[at].data(), keys[at].size());
    }
    positions_.set_positions(rows_, count_);
    for (std::size_t at = 0; game_.guided() && at < count_; ++at) {
      if (positions_.undeclared(at)) throw Undeclared();
    }
  }

  Kind kind(std::size_t at) const override {
    if (positions_.terminal(at)) return Kind::terminal;
    for (std::size_t role = 0; role < roles_; ++role) {
      if (positions_.legal_count(at, role) == 0) return Kind::stuck;
    }
    return Kind::open;
  }

  void expand(const Visit& visit) override {
    const auto take = [&](const LaneEvaluator& made, std::span<const std::size_t> from) {
      for (std::size_t i = 0; game_.guided() && i < from.size(); ++i) {
        if (made.next_undeclared(i)) throw Undeclared();
      }
      for (std::size_t i = 0; i < from.size(); ++i) visit(from[i], key(made.next(i)));
    };
    std::vector<std::vector<std::uint32_t>> legal(roles_);
    for (std::size_t at = 0; at < count_; ++at) {
      if (kind(at) != Kind::open) continue;
      for (std::size_t role = 0; role < roles_; ++role) positions_.legal(at, role, legal[role]);
      explore::each_joint_move(legal, [&](const std::vector<std::uint32_t>& joint) {
        const auto row = std::span(rows_).subspan(at * positions_.words(), positions_.words());
        steps_.add(row, joint, at, take);
      });
    }
    steps_.finish(take);
  }

 private:
  std::string_view key(std::span<const std::uint64_t> row) const {
    return {reinterpret_cast<const char*>(row.data()), bytes_};
  }

  const LaneGame& game_;
  LaneEvaluator positions_;
  StepBatch<std::size_t> steps_;  // by the position that each leaves
  std::size_t bytes_;
  std::size_t roles_;
  std::size_t count_ = 0;
  std::vector<std::uint64_t> rows_;
};

}  // namespace

std::unique_ptr<Expander> make_reference_expander(const GameCore& core) {
  return std::make_unique<ReferenceExpander>(core);
}

std::unique_ptr<Expander> make_lane_expander(const LaneGame& game) {
  return std::make_unique<LaneExpander>(game);
}

std::unique_ptr<Expander> make_expander(const GameCore& core, std::span<const TermId> start) {
  const LaneGame* const game = core.lanes_or_guided();
  if (game != nullptr && game->bits({start.begin(), start.end()})) return make_lane_expander(*game);
  return make_reference_expander(core);
}

}  // namespace orchard
