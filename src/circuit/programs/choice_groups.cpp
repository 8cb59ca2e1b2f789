#include "circuit/programs/choice_groups.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <random>

namespace orchard::circuit {
namespace {

constexpr int plies = 128;

// 64 games side by side, a bit each, straight on the network.
class Sample {
 public:
  Sample(const ground::GroundProgram& ground, const GameNetwork& game)
      : ground_(ground), game_(game), values_(game.network.size(), 0) {}

  ChoiceGroups run() {
    const std::size_t roles = game_.legal.size();
    ChoiceGroups result = separate_groups(game_);
    alone_.resize(roles);
    beside_.resize(roles);
    for (std::size_t r = 0; r < roles; ++r) {
      alone_[r].assign(game_.legal[r].size(), false);
      beside_[r].assign(game_.legal[r].size(), false);
    }
    find_moved();
    watch([&] {
      look_for_waiting();
      keep_legal();
    });
    for (std::size_t r = 0; r < roles; ++r) {
      for (std::size_t m = 0; m < game_.legal[r].size(); ++m) {
        result.waits[r][m] = alone_[r][m] && !beside_[r][m];
      }
    }
    together_.assign(roles, std::vector<bool>(roles, false));
    look_for_company(result.waits);
    result.groups.clear();
    for (std::size_t r = 0; r < roles; ++r) {
      const auto fits = [&](const std::vector<std::size_t>& group) {
        return std::ranges::none_of(group, [&](std::size_t other) { return together_[r][other]; });
      };
      const auto group = std::ranges::find_if(result.groups, fits);
      if (group == result.groups.end()) {
        result.groups.push_back({r});
      } else {
        group->push_back(r);
      }
    }
    return result;
  }

 private:
  std::uint64_t value(Signal signal) const {
    const std::uint64_t word = values_[signal.node()];
    return signal.negated() ? ~word : word;
  }
  void compute(std::uint32_t node) {
    if (!game_.network.is_gate(node)) return;
    std::uint64_t all = ~std::uint64_t{0};
    for (const Signal signal : game_.network.of(node)) all &= value(signal);
    values_[node] = all;
  }
  // The gates that depend on what is done: all that changes once moves are chosen.
  void find_moved() {
    std::vector<bool> moved(game_.network.size(), false);
    for (const auto& moves : game_.does) {
      for (const Signal move : moves) moved[move.node()] = true;
    }
    for (std::uint32_t node = 0; node < game_.network.size(); ++node) {
      if (!game_.network.is_gate(node)) continue;
      moved[node] = std::ranges::any_of(game_.network.of(node),
                                        [&](Signal signal) { return moved[signal.node()]; });
      if (moved[node]) moved_.push_back(node);
    }
  }
  void put(Signal input, std::uint64_t word) { values_[input.node()] = word; }
  std::uint64_t initial(std::size_t fluent) const {
    return ground_.fluents()[fluent].initial ? ~std::uint64_t{0} : 0;
  }

  template <class Look>
  void watch(Look&& look) {
    std::mt19937_64 random(1);  // its numbers are fixed by the standard
    for (std::size_t f = 0; f < game_.fluents.size(); ++f) put(game_.fluents[f], initial(f));
    for (int ply = 0; ply < plies; ++ply) {
      for (const auto& moves : game_.does) {
        for (const Signal move : moves) put(move, 0);
      }
      for (std::uint32_t node = 0; node < game_.network.size(); ++node) compute(node);
      open_ = ~value(game_.terminal);
      look();
      std::uint64_t again = value(game_.terminal);
      for (std::size_t r = 0; r < game_.legal.size(); ++r) again |= choose(r, random);
      for (const std::uint32_t node : moved_) compute(node);
      std::vector<std::uint64_t> next;
      for (const Signal signal : game_.next) next.push_back(value(signal));
      for (std::size_t f = 0; f < next.size(); ++f) {
        put(game_.fluents[f], (next[f] & ~again) | (initial(f) & again));
      }
    }
  }

  // A move in each game; gives the games in which the role has none.
  std::uint64_t choose(std::size_t role, std::mt19937_64& random) {
    std::array<std::uint64_t, 64> legal{};
    const auto each_legal = [&](auto&& look) {
      for (std::size_t m = 0; m < game_.legal[role].size(); ++m) {
        for (std::uint64_t games = value(game_.legal[role][m]); games != 0; games &= games - 1) {
          look(m, static_cast<std::size_t>(std::countr_zero(games)));
        }
      }
    };
    each_legal([&](std::size_t, std::size_t game) { ++legal[game]; });
    std::uint64_t stuck = 0;
    std::array<std::uint64_t, 64> drawn{};  // by game: which of its legal moves
    for (std::size_t game = 0; game < legal.size(); ++game) {
      const std::uint64_t draw = random();
      if (legal[game] == 0) {
        stuck |= std::uint64_t{1} << game;
      } else {
        drawn[game] = draw % legal[game];
      }
    }
    each_legal([&](std::size_t move, std::size_t game) {
      if (drawn[game]-- == 0) {
        values_[game_.does[role][move].node()] |= std::uint64_t{1} << game;
      }
    });
    return stuck;
  }

  void look_for_waiting() {
    std::vector<std::uint64_t> more(game_.legal.size(), 0);  // games in which a role has a choice
    std::uint64_t any_more = 0;
    for (std::size_t r = 0; r < game_.legal.size(); ++r) {
      std::uint64_t one = 0;
      for (const Signal legal : game_.legal[r]) {
        more[r] |= one & value(legal);
        one |= value(legal);
      }
      any_more |= more[r];
    }
    for (std::size_t r = 0; r < game_.legal.size(); ++r) {
      for (std::size_t m = 0; m < game_.legal[r].size(); ++m) {
        const std::uint64_t legal = value(game_.legal[r][m]) & open_;
        // Alone while another role chooses: a move that is merely forced is no waiting move.
        if ((legal & ~more[r] & any_more) != 0) alone_[r][m] = true;
        if ((legal & more[r]) != 0) beside_[r][m] = true;
      }
    }
  }

  void keep_legal() {
    for (const auto& moves : game_.legal) {
      for (const Signal legal : moves) legal_.push_back(value(legal) & open_);
    }
  }

  // Roles that had moves at once, waiting moves apart, in any of the plies kept.
  void look_for_company(const std::vector<std::vector<bool>>& waits) {
    std::size_t at = 0;
    while (at < legal_.size()) {
      std::vector<std::uint64_t> active(game_.legal.size(), 0);
      for (std::size_t r = 0; r < active.size(); ++r) {
        for (std::size_t m = 0; m < game_.legal[r].size(); ++m, ++at) {
          if (!waits[r][m]) active[r] |= legal_[at];
        }
      }
      for (std::size_t r = 0; r < active.size(); ++r) {
        for (std::size_t other = 0; other < r; ++other) {
          if ((active[r] & active[other]) != 0) together_[r][other] = together_[other][r] = true;
        }
      }
    }
  }

  const ground::GroundProgram& ground_;
  const GameNetwork& game_;
  std::vector<std::uint64_t> values_;
  std::uint64_t open_ = 0;                 // games that are not over
  std::vector<std::uint32_t> moved_;       // gates
  std::vector<std::uint64_t> legal_;       // ply by ply, by role and move
  std::vector<std::vector<bool>> alone_;   // moves seen alone while another role had a choice
  std::vector<std::vector<bool>> beside_;  // moves seen beside another one of the role
  std::vector<std::vector<bool>> together_;
};

}  // namespace

ChoiceGroups separate_groups(const GameNetwork& game) {
  ChoiceGroups result;
  for (std::size_t r = 0; r < game.legal.size(); ++r) {
    result.waits.emplace_back(game.legal[r].size(), false);
    result.groups.push_back({r});
  }
  return result;
}

ChoiceGroups sampled_groups(const ground::GroundProgram& ground, const GameNetwork& game) {
  return Sample(ground, game).run();
}

}  // namespace orchard::circuit
