#include "circuit/network/linear_fixpoint.hpp"

#include <algorithm>
#include <iterator>
#include <limits>

namespace orchard::circuit {
namespace {

// Whose terms ask for an unknown, and whom its own ask for, while unknowns go one after the other.
class Elimination {
 public:
  explicit Elimination(const std::vector<std::map<std::uint32_t, Signal>>& ways)
      : asks_(ways.size()), asked_by_(ways.size()) {
    for (std::uint32_t a = 0; a < ways.size(); ++a) {
      for (const auto& [b, way] : ways[a]) {
        asks_[a].insert(b);
        asked_by_[b].insert(a);
      }
    }
  }
  std::size_t work(std::uint32_t unknown) const {
    return asks_[unknown].size() * asked_by_[unknown].size();
  }
  void eliminate(std::uint32_t unknown) {
    for (const std::uint32_t user : asked_by_[unknown]) {
      asks_[user].erase(unknown);
      for (const std::uint32_t from : asks_[unknown]) {
        if (from == user) continue;
        asks_[user].insert(from);
        asked_by_[from].insert(user);
      }
    }
    for (const std::uint32_t from : asks_[unknown]) asked_by_[from].erase(unknown);
  }

 private:
  std::vector<std::set<std::uint32_t>> asks_;
  std::vector<std::set<std::uint32_t>> asked_by_;
};

}  // namespace

void LinearFixpoint::add(std::uint32_t unknown, std::optional<std::uint32_t> from,
                         std::vector<Signal> known) {
  if (from == unknown) return;
  std::ranges::sort(known);
  known.erase(std::unique(known.begin(), known.end()), known.end());
  terms_[unknown].push_back({from, std::move(known)});
}

void LinearFixpoint::take_guards_out() {
  for (auto& [unknown, terms] : terms_) {
    std::vector<Signal> common = terms.front().known;
    for (const Term& term : terms) {
      std::vector<Signal> both;
      std::ranges::set_intersection(common, term.known, std::back_inserter(both));
      common = std::move(both);
    }
    std::vector<std::vector<Signal>> start;
    std::map<std::uint32_t, std::vector<std::vector<Signal>>> ways;
    for (Term& term : terms) {
      std::vector<Signal> rest;
      std::ranges::set_difference(term.known, common, std::back_inserter(rest));
      (term.from ? ways[*term.from] : start).push_back(std::move(rest));
    }
    guard_[unknown] = network_.all(std::move(common));
    start_[unknown] = network_.any_of_all(start);
    for (auto& [from, alternatives] : ways) {
      const Signal way = network_.any_of_all(alternatives);
      if (way != never) way_[unknown].emplace(from, way);
    }
  }
}

// Fewest neighbours first, or as they come, from either end: on boards the last two are a sweep
// from side to side.
std::vector<std::uint32_t> LinearFixpoint::order() const {
  const auto count = static_cast<std::uint32_t>(way_.size());
  std::vector<std::uint32_t> best;
  std::size_t least = std::numeric_limits<std::size_t>::max();
  for (int kind = 0; kind < 3; ++kind) {
    Elimination elimination(way_);
    std::vector<std::uint32_t> order;
    std::set<std::uint32_t> left;
    for (std::uint32_t i = 0; i < count; ++i) left.insert(i);
    std::size_t work = 0;
    while (!left.empty() && work < least) {
      std::uint32_t next = kind == 1 ? *left.begin() : *left.rbegin();
      if (kind == 0) {
        next = *std::ranges::min_element(
            left, {}, [&](std::uint32_t unknown) { return elimination.work(unknown); });
      }
      work += elimination.work(next);
      elimination.eliminate(next);
      left.erase(next);
      order.push_back(next);
    }
    if (work >= least) continue;
    least = work;
    best = std::move(order);
  }
  return best;
}

std::vector<Signal> LinearFixpoint::solve(std::size_t unknowns) {
  guard_.assign(unknowns, never);
  start_.assign(unknowns, never);
  way_.assign(unknowns, {});
  take_guards_out();
  std::vector<std::set<std::uint32_t>> asked_by(unknowns);
  for (std::uint32_t a = 0; a < unknowns; ++a) {
    for (const auto& [b, way] : way_[a]) asked_by[b].insert(a);
  }
  const std::vector<std::uint32_t> eliminated = order();
  for (const std::uint32_t middle : eliminated) {
    const Signal guard = guard_[middle];
    for (const std::uint32_t user : asked_by[middle]) {
      const Signal in = way_[user].at(middle);
      way_[user].erase(middle);
      start_[user] = network_.either(start_[user], network_.all({in, guard, start_[middle]}));
      for (const auto& [from, out] : way_[middle]) {
        if (from == user) continue;  // round and back: nothing new
        // Paired so that both directions give one signal where `in` and `out` are alike in both.
        const Signal through = in < out ? network_.both(network_.both(in, guard), out)
                                        : network_.both(in, network_.both(guard, out));
        if (through == never) continue;
        const auto [known, is_new] = way_[user].try_emplace(from, through);
        if (!is_new) known->second = network_.either(known->second, through);
        asked_by[from].insert(user);
      }
    }
    for (const auto& [from, out] : way_[middle]) asked_by[from].erase(middle);
  }
  // way_[x] now names only unknowns that were eliminated later than x.
  std::vector<Signal> values(unknowns, never);
  for (auto unknown = eliminated.rbegin(); unknown != eliminated.rend(); ++unknown) {
    std::vector<Signal> ways{start_[*unknown]};
    for (const auto& [from, way] : way_[*unknown]) {
      ways.push_back(network_.both(way, values[from]));
    }
    values[*unknown] = network_.both(guard_[*unknown], network_.any(std::move(ways)));
  }
  return values;
}

}  // namespace orchard::circuit
