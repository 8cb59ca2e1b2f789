#include "review/inquiry/end_order.hpp"

#include <algorithm>

namespace orchard::review {

using Number = explore::StateSpace::Number;
using explore::StateSpace;

namespace {

// The shortest line from the start to a position that comes again, through what can go on for ever:
// breadth first round from each of its classes, the nearest to the start first, as long as that can
// still be shorter.
class Lasso {
 public:
  // `open`: 0 for every class that cannot go on for ever.
  Lasso(const StateSpace& space, const std::vector<std::uint32_t>& open, EndOrder& result)
      : space_(space), open_(open), result_(result), met_(open.size(), 0), before_(open.size()) {}

  void find() {
    walk();
    for (Number from = 0; from < open_.size() && steps_ < most_steps; ++from) {
      if (open_[from] == 0) continue;
      const std::size_t depth = space_.depth(space_.first_of(from));
      if (depth + 1 >= length_) break;
      go_round(from, depth);
    }
    result_.cycle = space_.round(std::move(result_.cycle), result_.repeats_from);
    result_.is_shortest = steps_ < most_steps && space_.symmetry().size() == 1;
  }

 private:
  static constexpr std::uint64_t most_steps = 20'000'000;  // then what was found must do

  // Some line to begin with: from the first class on, until one comes again.
  void walk() {
    Number at = 0;
    while (open_[at] == 0) ++at;
    const std::size_t depth = space_.depth(space_.first_of(at));
    std::vector<Number> walked;
    for (++round_; met_[at] != round_;) {
      met_[at] = round_;
      walked.push_back(at);
      at = *std::ranges::find_if(space_.class_steps(at),
                                 [&](Number n) { return n < open_.size() && open_[n] != 0; });
    }
    const auto again = std::ranges::find(walked, at) - walked.begin();
    const Number begun = walked.front();
    walked.push_back(at);
    put(begun, walked, depth + static_cast<std::size_t>(again));
    length_ = depth + walked.size() - 1;
  }

  void go_round(Number from, std::size_t depth) {
    ++round_;
    std::vector<Number> layer{from};
    std::vector<Number> next;
    for (std::size_t plies = 1; !layer.empty() && depth + plies < length_; ++plies) {
      next.clear();
      for (const Number at : layer) {
        for (const Number to : space_.class_steps(at)) {
          ++steps_;
          if (to >= open_.size() || open_[to] == 0) continue;
          if (to == from) return keep(from, at, depth, plies);
          if (met_[to] == round_) continue;
          met_[to] = round_;
          before_[to] = at;
          next.push_back(to);
        }
      }
      if (steps_ >= most_steps) return;
      layer.swap(next);
    }
  }

  void keep(Number from, Number last, std::size_t depth, std::size_t plies) {
    length_ = depth + plies;
    std::vector<Number> round{from};
    for (Number at = last; at != from; at = before_[at]) round.push_back(at);
    round.push_back(from);
    std::ranges::reverse(round);
    put(from, round, depth);
  }

  // The shortest line to a class, and on from there.
  void put(Number first, const std::vector<Number>& on, std::size_t repeats_from) {
    result_.cycle.clear();
    for (const Number position : space_.line_to(space_.first_of(first))) {
      result_.cycle.push_back(space_.class_of(position));
    }
    result_.cycle.insert(result_.cycle.end(), on.begin() + 1, on.end());
    result_.repeats_from = repeats_from;
  }

  const StateSpace& space_;
  const std::vector<std::uint32_t>& open_;
  EndOrder& result_;
  std::size_t length_ = 0;  // of the shortest line so far
  std::uint64_t steps_ = 0;
  std::uint32_t round_ = 0;
  std::vector<std::uint32_t> met_;  // in which round last
  std::vector<Number> before_;
};

}  // namespace

// Positions are taken off whose followers are all off; what is left can go on for ever. What was
// not looked at counts as off.
EndOrder end_order(const StateSpace& space) {
  EndOrder result;
  const Number count = space.expanded_classes();
  std::vector<std::uint32_t> open(count, 0);  // followers that are not off, as often as they follow
  std::vector<std::uint64_t> first(std::size_t{count} + 1, 0);
  for (Number p = 0; p < count; ++p) {
    for (const Number next : space.class_steps(p)) {
      if (next >= count) continue;
      ++open[p];
      ++first[next + 1];
    }
  }
  for (std::size_t p = 0; p < count; ++p) first[p + 1] += first[p];
  std::vector<Number> before(first[count]);
  std::vector<std::uint64_t> at(first.begin(), first.end() - 1);
  for (Number p = 0; p < count; ++p) {
    for (const Number next : space.class_steps(p)) {
      if (next < count) before[at[next]++] = p;
    }
  }
  result.order.reserve(count);
  for (Number p = 0; p < count; ++p) {
    if (open[p] == 0) result.order.push_back(p);
  }
  for (std::size_t i = 0; i < result.order.size(); ++i) {
    const Number p = result.order[i];
    for (std::uint64_t k = first[p]; k < first[p + 1]; ++k) {
      if (--open[before[k]] == 0) result.order.push_back(before[k]);
    }
  }
  if (result.order.size() == count) return result;
  Lasso(space, open, result).find();
  return result;
}

}  // namespace orchard::review
