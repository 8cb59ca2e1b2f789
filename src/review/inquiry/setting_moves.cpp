#include "review/inquiry/setting_moves.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "explore/sampling/joint_moves.hpp"

namespace orchard::review {

using Number = StateSpace::Number;

namespace {

// A role's moves of a name, with one argument.
using Setter = std::pair<std::size_t, std::string>;

// The place of a value in the fluents of a name.
struct Setting {
  std::string name;
  std::size_t arity = 0;
  std::size_t place = 0;
  friend auto operator<=>(const Setting&, const Setting&) = default;
};

bool holds(std::span<const std::uint64_t> row, std::size_t fluent) {
  return (row[fluent / 64] >> (fluent % 64) & 1) != 0;
}

// The fluents that what is legal depends on.
std::vector<bool> read_by_legal(const circuit::GameNetwork& game) {
  std::vector<bool> reached(game.network.size(), false);
  std::vector<std::uint32_t> pending;
  const auto reach = [&](Signal signal) {
    if (reached[signal.node()]) return;
    reached[signal.node()] = true;
    pending.push_back(signal.node());
  };
  for (const auto& of_role : game.legal) std::ranges::for_each(of_role, reach);
  while (!pending.empty()) {
    const std::uint32_t node = pending.back();
    pending.pop_back();
    std::ranges::for_each(game.network.of(node), reach);
  }
  std::vector<bool> result;
  for (const Signal fluent : game.fluents) result.push_back(reached[fluent.node()]);
  return result;
}

// What fluents say, value by value.
class Settings {
 public:
  Settings(const ground::GroundProgram& ground, const std::vector<bool>& wanted) {
    for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
      if (!wanted[f]) continue;
      const Term term = ground.terms().term(ground.fluents()[f].term);
      const std::vector<Term> arguments = term.arguments();
      for (std::size_t place = 0; place < arguments.size(); ++place) {
        by_value_[arguments[place]].push_back({{term.name(), arguments.size(), place}, f});
      }
      of_name_[{term.name(), arguments.size()}].push_back(f);
    }
  }
  struct Entry {
    Setting setting;
    std::uint32_t fluent = 0;
  };
  const std::vector<Entry>& with(const Term& value) const {
    static const std::vector<Entry> none;
    const auto known = by_value_.find(value);
    return known == by_value_.end() ? none : known->second;
  }
  // Whether some fluent of the name is different.
  bool differ(const Setting& setting, std::span<const std::uint64_t> a,
              std::span<const std::uint64_t> b) const {
    return std::ranges::any_of(of_name_.at({setting.name, setting.arity}),
                               [&](std::uint32_t f) { return holds(a, f) != holds(b, f); });
  }

 private:
  std::map<Term, std::vector<Entry>> by_value_;
  std::map<std::pair<std::string, std::size_t>, std::vector<std::uint32_t>> of_name_;
};

class Finder {
 public:
  explicit Finder(Exploration& exploration)
      : exploration_(exploration),
        settings_(exploration.ground(), read_by_legal(exploration.lanes().network())) {}

  std::optional<IdleSetting> run() {
    learn();
    std::erase_if(candidates_, [&](const auto& entry) {
      const auto& seen = seen_.at(entry.first);
      constexpr std::size_t least_steps = 50;
      return seen.steps < least_steps || seen.values.size() < 3 || entry.second.empty();
    });
    return candidates_.empty() ? std::nullopt : search();
  }

 private:
  struct Seen {
    std::size_t steps = 0;
    std::set<Term> values;
  };

  Term move_term(std::size_t role, std::uint32_t move) const {
    return exploration_.ground().terms().term(exploration_.ground().moves()[role][move].term);
  }

  // The steps of the random games: a position and the joint move that led to it.
  void learn() {
    exploration_.sample([&](std::span<const std::uint64_t> rows,
                            std::span<const SampledGames::Place> places, const LaneEvaluator&) {
      const std::size_t words = exploration_.space().words();
      for (std::size_t at = 0; at < places.size(); ++at) {
        if (places[at].ply == 0) continue;
        const auto joint = exploration_.samples().joint(places[at].game, places[at].ply - 1);
        for (std::size_t role = 0; role < joint.size(); ++role) {
          note(role, joint[role], rows.subspan(at * words, words));
        }
      }
    });
  }

  void note(std::size_t role, std::uint32_t number, std::span<const std::uint64_t> after) {
    if (exploration_.is_chance(role)) return;
    const Term move = move_term(role, number);
    if (move.arity() != 1) return;
    const Term value = move.arguments().front();
    const Setter setter{role, move.name()};
    std::set<Setting> now;
    for (const auto& entry : settings_.with(value)) {
      if (holds(after, entry.fluent)) now.insert(entry.setting);
    }
    Seen& seen = seen_[setter];
    const auto [known, is_new] = candidates_.try_emplace(setter, now);
    if (!is_new) {
      std::erase_if(known->second, [&](const Setting& s) { return !now.contains(s); });
    }
    ++seen.steps;
    if (seen.values.size() < 3) seen.values.insert(value);
  }

  std::optional<IdleSetting> search() const {
    const StateSpace& space = exploration_.space();
    constexpr std::uint64_t most = 50'000;  // positions looked at
    LaneEvaluator lanes(exploration_.lanes());
    std::vector<std::uint64_t> made_now;
    std::vector<std::uint64_t> made_after;
    std::uint64_t looked_at = 0;
    for (Number p = 0; p < space.expanded() && looked_at < most; ++p) {
      if (!space.is_position(p)) continue;
      ++looked_at;
      if (space.kind(p) != StateSpace::Kind::open) continue;
      std::size_t choosers = 0;
      std::size_t role = 0;
      for (std::size_t r = 0; r < space.roles(); ++r) {
        if (space.choices(p, r) < 2) continue;
        ++choosers;
        role = r;
      }
      if (choosers != 1) continue;
      const auto now = space.row(p, made_now);
      const std::vector<std::uint32_t> legal = exploration_.legal_at(p, lanes)[role];
      for (std::uint32_t choice = 0; choice < legal.size(); ++choice) {
        const auto after = space.row(space.steps(p)[choice], made_after);
        const auto fluent = set_already(role, legal[choice], now, after);
        if (!fluent) continue;
        return IdleSetting{p, choice, role, move_term(role, legal[choice]).to_string(), *fluent};
      }
    }
    return std::nullopt;
  }

  std::optional<std::string> set_already(std::size_t role, std::uint32_t number,
                                         std::span<const std::uint64_t> now,
                                         std::span<const std::uint64_t> after) const {
    const Term move = move_term(role, number);
    const auto candidate = candidates_.find({role, move.name()});
    if (move.arity() != 1 || candidate == candidates_.end()) return std::nullopt;
    for (const auto& entry : settings_.with(move.arguments().front())) {
      if (!holds(now, entry.fluent) || !candidate->second.contains(entry.setting)) continue;
      if (settings_.differ(entry.setting, now, after)) continue;
      const TermId fluent = exploration_.ground().fluents()[entry.fluent].term;
      return exploration_.ground().terms().text(fluent);
    }
    return std::nullopt;
  }

  Exploration& exploration_;
  Settings settings_;
  std::map<Setter, std::set<Setting>> candidates_;
  std::map<Setter, Seen> seen_;
};

}  // namespace

std::optional<IdleSetting> idle_setting(Exploration& exploration) {
  return Finder(exploration).run();
}

}  // namespace orchard::review
