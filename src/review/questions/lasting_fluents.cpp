#include "review/questions/lasting_fluents.hpp"

#include <absl/container/flat_hash_map.h>

#include <map>
#include <set>

#include "game/row_bits.hpp"
#include "review/inquiry/turn_order.hpp"
#include "review/inquiry/value_groups.hpp"

namespace orchard::review {
namespace {

class LastingFluents {
 public:
  explicit LastingFluents(const Exploration& exploration)
      : words_(exploration.space().words()),
        movers_(exploration.ground().fluents().size(), nothing),
        values_of_(movers_.size()) {
    for (const ValueGroup& group : value_groups(exploration)) {
      for (const auto& [key, fluents] : group.keys) {
        for (const std::uint32_t f : fluents) values_of_[f].push_back(values_.size());
        Value& value = values_.emplace_back();
        value.fluents = fluents;
        value.may_be_turn = group.keys.size() == 1 && group.arity == 1;
      }
    }
  }

  // What is true in a position of a game in which these roles move; a game ply by ply.
  void see(std::span<const std::uint64_t> row, std::size_t game,
           const std::vector<std::size_t>& movers) {
    const std::uint32_t who =
        numbers_.try_emplace(movers, static_cast<std::uint32_t>(numbers_.size())).first->second;
    true_.clear();
    set_bits(row.data(), 0, movers_.size(), true_);
    for (const std::uint32_t f : true_) {
      for (const std::size_t value : values_of_[f]) see(values_[value], f, game, who);
    }
  }

  // A bit for each.
  std::vector<std::uint64_t> mask() const {
    std::vector<std::uint64_t> result(words_, ~std::uint64_t{0});
    for (const Value& value : values_) {
      std::set<std::uint32_t> different;
      std::size_t met = 0;
      for (const std::uint32_t f : value.fluents) {
        if (movers_[f] == nothing) continue;
        different.insert(movers_[f]);
        ++met;
      }
      const bool is_turn = value.may_be_turn && value.tells_movers && different.size() > 1 &&
                           (value.by_itself || different.size() == met);
      const bool is_clock = value.always_changes && value.by_itself && met > 1;
      if (!is_turn && !is_clock) continue;
      for (const std::uint32_t f : value.fluents) {
        result[f / 64] &= ~(std::uint64_t{1} << (f % 64));
      }
    }
    return result;
  }

 private:
  static constexpr std::uint32_t nothing = 0xFFFFFFFF;
  struct Value {
    std::vector<std::uint32_t> fluents;
    bool may_be_turn = true;
    bool tells_movers = true;
    bool always_changes = true;
    bool by_itself = true;                                   // what follows is always the same
    absl::flat_hash_map<std::uint32_t, std::uint32_t> then;  // by fluent, the next one
    std::vector<std::uint32_t> last;                         // by game
  };

  void see(Value& value, std::uint32_t f, std::size_t game, std::uint32_t who) {
    if (movers_[f] == nothing) movers_[f] = who;
    value.tells_movers = value.tells_movers && movers_[f] == who;
    if (value.last.size() <= game) value.last.resize(game + 1, nothing);
    std::uint32_t& last = value.last[game];
    if (last != nothing) {
      value.always_changes = value.always_changes && last != f;
      const auto [then, first_time] = value.then.try_emplace(last, f);
      value.by_itself = value.by_itself && (first_time || then->second == f);
    }
    last = f;
  }

  std::size_t words_;
  std::vector<std::uint32_t> movers_;                // by fluent, when it was first met: a number
  std::vector<std::vector<std::size_t>> values_of_;  // by fluent
  std::vector<Value> values_;
  std::map<std::vector<std::size_t>, std::uint32_t> numbers_;  // of sets of movers
  std::vector<std::uint32_t> true_;
};

}  // namespace

std::vector<std::uint64_t> lasting_fluents(Exploration& exploration) {
  LastingFluents lasting(exploration);
  const std::size_t words = exploration.space().words();
  exploration.sample([&](std::span<const std::uint64_t> rows,
                         std::span<const SampledGames::Place> places, const LaneEvaluator& lanes) {
    for (std::size_t at = 0; at < places.size(); ++at) {
      if (lanes.terminal(at)) continue;
      lasting.see(rows.subspan(at * words, words), places[at].game, movers(exploration, lanes, at));
    }
  });
  return lasting.mask();
}

}  // namespace orchard::review
