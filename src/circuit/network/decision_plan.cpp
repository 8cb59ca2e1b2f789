#include "circuit/network/decision_plan.hpp"

#include <algorithm>
#include <bit>
#include <map>

namespace orchard::circuit {

namespace {

using Set = std::vector<std::uint64_t>;  // of combinations, a bit each

bool empty(const Set& set) {
  std::uint64_t some = 0;
  for (const std::uint64_t word : set) some |= word;
  return some == 0;
}
std::size_t count_of(const Set& set) {
  std::size_t result = 0;
  for (const std::uint64_t word : set) result += static_cast<std::size_t>(std::popcount(word));
  return result;
}
Set within(const Set& set, const Set& other, bool inside) {
  Set result(set.size());
  for (std::size_t w = 0; w < set.size(); ++w) {
    result[w] = set[w] & (inside ? other[w] : ~other[w]);
  }
  return result;
}

}  // namespace

// Works out the nodes of `telling`. Its depth is at most the number of combinations.
class DecisionPlan::Teller {
 public:
  Teller(std::span<const Combination> combinations, std::size_t places, DecisionPlan& plan)
      : plan_(plan), with_(places, Set((combinations.size() + 63) / 64, 0)) {
    for (std::size_t c = 0; c < combinations.size(); ++c) {
      for (const std::uint16_t place : combinations[c]) {
        with_[place][c / 64] |= std::uint64_t{1} << (c % 64);
      }
    }
  }

  std::uint32_t tell(const Set& on, const Set& off) {
    if (empty(on)) return no_node;
    if (empty(off)) return yes_node;
    const auto known = known_.find({on, off});
    if (known != known_.end()) return known->second;
    const std::size_t place = best_place(on, off);
    Node node;
    node.place = static_cast<std::uint32_t>(place);
    node.yes = tell(within(on, with_[place], true), within(off, with_[place], true));
    node.no = tell(within(on, with_[place], false), within(off, with_[place], false));
    const auto number = static_cast<std::uint32_t>(plan_.nodes_.size());
    plan_.nodes_.push_back(node);
    known_.emplace(std::pair(on, off), number);
    return number;
  }

 private:
  // What is left on a side where only `on` or only `off` is, costs a gate; so the best signal
  // leaves few on the other side, or divides both evenly.
  std::size_t best_place(const Set& on, const Set& off) const {
    const auto all_on = static_cast<double>(count_of(on));
    const auto all_off = static_cast<double>(count_of(off));
    std::size_t best = 0;
    double best_told = -1;
    for (std::size_t place = 0; place < with_.size(); ++place) {
      const auto on_with = static_cast<double>(count_of(within(on, with_[place], true)));
      const auto off_with = static_cast<double>(count_of(within(off, with_[place], true)));
      // Pairs that need not be told from one another any more.
      double told = on_with * (all_off - off_with) + (all_on - on_with) * off_with;
      if (told == 0) continue;
      const bool alone = on_with == 0 || off_with == 0 || on_with == all_on || off_with == all_off;
      if (alone) told += all_on * all_off / static_cast<double>(with_.size());
      if (told > best_told) {
        best = place;
        best_told = told;
      }
    }
    return best;
  }

  DecisionPlan& plan_;
  std::vector<Set> with_;  // by place: the combinations in which it holds
  std::map<std::pair<Set, Set>, std::uint32_t> known_;
};

DecisionPlan DecisionPlan::telling(std::span<const Combination> combinations, std::size_t places,
                                   const std::vector<bool>& wanted) {
  DecisionPlan result;
  if (std::ranges::all_of(combinations, [](const Combination& one) { return one.size() <= 1; })) {
    result.tell_single_places(combinations, wanted);
    return result;
  }
  Set on((combinations.size() + 63) / 64, 0);
  Set off = on;
  for (std::size_t c = 0; c < combinations.size(); ++c) {
    (wanted[c] ? on : off)[c / 64] |= std::uint64_t{1} << (c % 64);
  }
  result.root_ = Teller(combinations, places, result).tell(on, off);
  return result;
}

// Where one place holds at most: any of those that are wanted, or none of the others.
void DecisionPlan::tell_single_places(std::span<const Combination> combinations,
                                      const std::vector<bool>& wanted) {
  const auto none = std::ranges::find_if(combinations, &Combination::empty);
  const bool none_wanted =
      none != combinations.end() && wanted[static_cast<std::size_t>(none - combinations.begin())];
  root_ = none_wanted ? yes_node : no_node;
  for (std::size_t c = 0; c < combinations.size(); ++c) {
    if (combinations[c].empty() || wanted[c] == none_wanted) continue;
    nodes_.push_back({combinations[c].front(), none_wanted ? no_node : yes_node, root_});
    root_ = static_cast<std::uint32_t>(nodes_.size() - 1);
  }
}

// Works out the nodes of `one_of`: sets of ways to go on are told apart by what they are.
class DecisionPlan::Diagram {
 public:
  Diagram(std::size_t places, DecisionPlan& plan) : places_(places), plan_(plan) {}

  // `ways`: the places from `first` on that must hold, of different combinations.
  std::uint32_t one_of(std::size_t first, std::vector<Combination> ways) {
    if (ways.empty()) return no_node;
    if (first == places_) return yes_node;
    const auto known = known_.find({first, ways});
    if (known != known_.end()) return known->second;
    std::vector<Combination> with;
    std::vector<Combination> without;
    for (const Combination& way : ways) {
      if (!way.empty() && way.front() == first) {
        with.emplace_back(way.begin() + 1, way.end());
      } else {
        without.push_back(way);
      }
    }
    Node node;
    node.place = static_cast<std::uint32_t>(first);
    node.yes = one_of(first + 1, std::move(with));
    node.no = one_of(first + 1, std::move(without));
    std::uint32_t number = node.yes;
    if (node.yes != node.no) {
      number = static_cast<std::uint32_t>(plan_.nodes_.size());
      plan_.nodes_.push_back(node);
    }
    known_.emplace(std::pair(first, std::move(ways)), number);
    return number;
  }

 private:
  std::size_t places_;
  DecisionPlan& plan_;
  std::map<std::pair<std::size_t, std::vector<Combination>>, std::uint32_t> known_;
};

DecisionPlan DecisionPlan::one_of(std::span<const Combination> combinations, std::size_t places) {
  DecisionPlan result;
  std::vector<Combination> ways(combinations.begin(), combinations.end());
  std::ranges::sort(ways);
  result.root_ = Diagram(places, result).one_of(0, std::move(ways));
  return result;
}

Signal DecisionPlan::build(Network& network, std::span<const Signal> signals) const {
  std::vector<Signal> built{never, always};
  for (std::size_t n = built.size(); n < nodes_.size(); ++n) {
    const Node& node = nodes_[n];
    const Signal yes = built[node.yes];
    const Signal no = built[node.no];
    built.push_back(yes == no ? yes : network.choose(signals[node.place], yes, no));
  }
  return built[root_];
}

}  // namespace orchard::circuit
