#include "solve/exact_search.hpp"

#include <algorithm>
#include <numeric>

#include "game/core.hpp"

namespace orchard::solve_inner {
namespace {

constexpr int deepest = 200;  // plies

}  // namespace

std::string_view name_of(ExactSearch::Unsuited reason) {
  switch (reason) {
    case ExactSearch::Unsuited::chance:
      return "chance decides";
    case ExactSearch::Unsuited::many_roles:
      return "more than two roles choose";
    case ExactSearch::Unsuited::many_values:
      return "ends have too many different values";
    case ExactSearch::Unsuited::shared_interests:
      return "the interests of the two roles are not opposed";
    case ExactSearch::Unsuited::choices_at_once:
      break;
  }
  return "roles choose at once";
}

ExactSearch::ExactSearch(const LaneGame& game)
    : roles_(game.ground().moves().size()), shares_(game), table_(game.words()) {
  std::vector<std::size_t> choosing;
  for (const Role& role : game.core().roles()) {
    history_.emplace_back(game.ground().moves()[role.index()].size(), 0);
    if (history_.back().size() < 2) continue;
    if (role.is_chance()) unsuited_ = Unsuited::chance;
    choosing.push_back(role.index());
  }
  if (choosing.empty()) choosing.push_back(0);
  if (choosing.size() > 2) unsuited_ = Unsuited::many_roles;
  first_ = choosing.front();
  EndClasses classes(shares_, roles_, first_,
                     choosing.size() == 2 ? std::optional(choosing.back()) : std::nullopt);
  if (classes.size() >= ChoiceNode::open) unsuited_ = Unsuited::many_values;
  nodes_.emplace(game, shares_, std::move(classes), first_);
  levels_.resize(deepest + 1);
}

std::optional<ExactSearch::Unsuited> ExactSearch::unsuited() const {
  if (unsuited_) return unsuited_;
  return nodes_->classes().opposed() ? std::nullopt : std::optional(Unsuited::shared_interests);
}

bool ExactSearch::spent() {
  if (!ending_ && unsuited()) ending_ = Ending::stopped;
  if (!ending_) {
    ending_ = stopwatch_->check(positions_ - first_position_, static_cast<std::uint64_t>(depth_));
  }
  return ending_.has_value();
}

// False if the game turned out to be unsuited.
bool ExactSearch::expand(const Question& at, NodeList& children) {
  if (!nodes_->expand(at.in, at.number, children)) unsuited_ = Unsuited::choices_at_once;
  positions_ += at.node().moves;
  return !unsuited();
}

// Whether the position is worth at least a class to the first role.
ExactSearch::Reply ExactSearch::ask(const Question& at, int depth, std::uint8_t wanted) {
  if (at.node().over_class != ChoiceNode::open) return reply(at.node().over_class >= wanted);
  if (depth == 0 || spent()) return Reply::unknown;
  if (depth == 1) return look_at_ends(at, wanted);
  std::uint32_t best = BoundsTable::no_move;
  if (const BoundsTable::Entry* const known = table_.find(at.row())) {
    if (known->lower >= wanted) return Reply::yes;
    if (known->upper < wanted) return Reply::no;
    if (known->asked == wanted && known->depth >= depth) return Reply::unknown;
    best = known->best;
  }
  const Reply result = ask_children(at, depth, wanted, best);
  const auto highest = static_cast<std::uint8_t>(nodes_->classes().size() - 1);
  BoundsTable::Entry& entry = table_.make(at.row(), highest);
  if (best != BoundsTable::no_move) entry.best = best;
  if (result == Reply::yes) {
    entry.lower = std::max(entry.lower, wanted);
  } else if (result == Reply::no) {
    entry.upper = std::min(entry.upper, static_cast<std::uint8_t>(wanted - 1));
  } else if (!ending_) {
    entry.asked = wanted;
    entry.depth = static_cast<std::uint8_t>(depth);
  }
  return result;
}

// What the children that are ends say, in `children`; unknown if that depends on the others.
ExactSearch::Reply ExactSearch::reply_of_ends(const Question& at, const NodeList& children,
                                              std::uint8_t wanted, std::uint32_t& best) const {
  const Reply wins = decisive(at.node());
  bool all = true;
  for (std::size_t i = 0; i < children.nodes.size(); ++i) {
    const std::uint8_t over = children.nodes[i].over_class;
    if (over == ChoiceNode::open) {
      all = false;
    } else if (reply(over >= wanted) == wins) {
      best = at.moves()[i];
      return wins;
    }
  }
  return all ? opposite(wins) : Reply::unknown;
}

ExactSearch::Reply ExactSearch::look_at_ends(const Question& at, std::uint8_t wanted) {
  NodeList& children = levels_[1].children;
  std::uint32_t best = BoundsTable::no_move;
  if (!expand(at, children)) return Reply::unknown;
  return reply_of_ends(at, children, wanted, best);
}

ExactSearch::Reply ExactSearch::ask_children(const Question& at, int depth, std::uint8_t wanted,
                                             std::uint32_t& best) {
  Level& level = levels_[static_cast<std::size_t>(depth)];
  if (!expand(at, level.children)) return Reply::unknown;
  const Reply of_ends = reply_of_ends(at, level.children, wanted, best);
  if (of_ends != Reply::unknown) return of_ends;
  return depth == 2 ? ask_grandchildren(at, level.children, wanted)
                    : ask_in_order(at, level, depth, wanted, best);
}

// The move that answered here before comes first, then those that answered most often elsewhere.
void ExactSearch::put_in_order(const Question& at, Level& level, std::uint32_t best) const {
  const auto moves = at.moves();
  const auto& history = history_[at.node().chooser];
  level.order.resize(moves.size());
  std::iota(level.order.begin(), level.order.end(), 0);
  std::ranges::stable_sort(level.order, std::ranges::greater(), [&](std::uint32_t i) {
    return moves[i] == best ? BoundsTable::no_move : history[moves[i]];
  });
}

// A move that answered further up saved more work.
void ExactSearch::remember(std::size_t role, std::uint32_t move, int depth) {
  constexpr std::uint32_t most = BoundsTable::no_move >> 2;
  auto& history = history_[role];
  history[move] += 1u << std::min(depth, 16);
  if (history[move] <= most) return;
  for (std::uint32_t& times : history) times /= 2;
}

ExactSearch::Reply ExactSearch::ask_in_order(const Question& at, Level& level, int depth,
                                             std::uint8_t wanted, std::uint32_t& best) {
  const Reply wins = decisive(at.node());
  put_in_order(at, level, best);
  bool unknown = false;
  for (const std::uint32_t i : level.order) {
    if (level.children.nodes[i].over_class != ChoiceNode::open) continue;  // not decisive
    const Reply of_child = ask({level.children, i}, depth - 1, wanted);
    if (of_child == wins) {
      best = at.moves()[i];
      remember(at.node().chooser, best, depth);
      return wins;
    }
    unknown = unknown || of_child == Reply::unknown;
    if (ending_) return Reply::unknown;
  }
  return unknown ? Reply::unknown : opposite(wins);
}

// Of a child whose moves were gathered from `at` on, and made; goes past them.
ExactSearch::Reply ExactSearch::reply_of_gathered(const ChoiceNode& child, std::size_t& at,
                                                  std::uint8_t wanted) {
  const Reply wins = decisive(child);
  bool decided = false;
  bool all = true;
  for (std::uint32_t i = 0; i < child.moves; ++i, ++at) {
    const auto over = nodes_->end_class(at);
    all = all && over;
    decided = decided || (over && reply(*over >= wanted) == wins);
  }
  return decided ? wins : all ? opposite(wins) : Reply::unknown;
}

// Two plies from the bottom: all children of all children at once, of which only ends count.
ExactSearch::Reply ExactSearch::ask_grandchildren(const Question& at, const NodeList& children,
                                                  std::uint8_t wanted) {
  const Reply wins = decisive(at.node());
  const auto is_open = [&](std::size_t i) {
    return children.nodes[i].over_class == ChoiceNode::open;
  };
  bool unknown = false;
  for (std::size_t from = 0; from < children.nodes.size();) {
    // As many children as fit with all their moves.
    std::size_t until = from;
    while (until < children.nodes.size() && (!is_open(until) || nodes_->gather(children, until))) {
      ++until;
    }
    if (until == from) return Reply::unknown;  // one child with more moves than lanes
    positions_ += nodes_->make_gathered();
    std::size_t made = 0;
    for (; from < until; ++from) {
      if (!is_open(from)) continue;
      const Reply of_child = reply_of_gathered(children.nodes[from], made, wanted);
      if (of_child == wins) return wins;
      unknown = unknown || of_child == Reply::unknown;
    }
  }
  return unknown ? Reply::unknown : opposite(wins);
}

// The class of a position; none if the budget ends first.
std::optional<std::uint8_t> ExactSearch::settle(const Question& root) {
  std::uint8_t lower = 0;
  auto upper = static_cast<std::uint8_t>(nodes_->classes().size() - 1);
  for (depth_ = 1; depth_ <= deepest && lower < upper; ++depth_) {
    // What is just above the lower bound, and just at the upper.
    for (const bool high : {true, false}) {
      if (lower == upper) break;
      const auto wanted = high ? upper : static_cast<std::uint8_t>(lower + 1);
      const Reply answer = ask(root, depth_, wanted);
      if (ending_) return std::nullopt;
      if (answer == Reply::yes) lower = wanted;
      if (answer == Reply::no) upper = static_cast<std::uint8_t>(wanted - 1);
      if (lower + 1 == upper && high && answer == Reply::unknown) break;  // the same question
    }
  }
  if (lower == upper) return lower;
  ending_ = Ending::positions;
  return std::nullopt;
}

// Whether a position is worth at least a class; none if the budget ends first.
std::optional<bool> ExactSearch::reaches(const Question& root, int wanted) {
  if (wanted <= 0) return true;
  if (wanted >= static_cast<int>(nodes_->classes().size())) return false;
  for (int depth = 1; depth <= deepest; ++depth) {
    const Reply answer = ask(root, depth, static_cast<std::uint8_t>(wanted));
    if (ending_) return std::nullopt;
    if (answer != Reply::unknown) return answer == Reply::yes;
  }
  return std::nullopt;
}

// The moves after which a position is worth as much as it is itself: asked of each.
void ExactSearch::find_best(const Question& root, std::uint8_t worth, bool want_all,
                            Answer& answer) {
  answer.chooser = root.node().chooser;
  NodeList children;
  if (!expand(root, children)) return;
  const auto moves = root.moves();
  std::vector<std::uint32_t> order(moves.size());
  std::iota(order.begin(), order.end(), 0);
  if (const BoundsTable::Entry* const known = table_.find(root.row())) {
    std::stable_partition(order.begin(), order.end(),
                          [&](std::uint32_t i) { return moves[i] == known->best; });
  }
  // It is never worth more than that to whoever chooses.
  const bool first_chooses = answer.chooser == first_;
  const auto is_good = [&](std::uint32_t i) -> std::optional<bool> {
    const std::uint8_t over = children.nodes[i].over_class;
    if (over != ChoiceNode::open) return over == worth;
    const auto reached = reaches({children, i}, first_chooses ? worth : worth + 1);
    return reached ? std::optional(*reached == first_chooses) : std::nullopt;
  };
  answer.all_best = true;
  for (const std::uint32_t i : order) {
    const std::optional<bool> good = is_good(i);
    if (good == true) answer.best.push_back(moves[i]);
    const bool enough = good == true && !want_all;
    if (!good || enough) answer.all_best = false;
    if (enough) break;
  }
  std::ranges::sort(answer.best);
}

ExactSearch::Answer ExactSearch::solve(const Row& row, const Budget& budget, bool want_all) {
  Answer answer;
  stopwatch_.emplace(budget);
  ending_.reset();
  first_position_ = positions_;
  NodeList here;
  const Question root{here, 0};
  const auto worth = [&]() -> std::optional<std::uint8_t> {
    if (unsuited()) return std::nullopt;
    if (!nodes_->read(row, here)) {
      unsuited_ = Unsuited::choices_at_once;
      return std::nullopt;
    }
    const std::uint8_t over = root.node().over_class;
    return over == ChoiceNode::open ? settle(root) : std::optional(over);
  }();
  if (!worth || unsuited()) {
    answer.ending = ending_.value_or(Ending::stopped);
    return answer;
  }
  for (std::size_t role = 0; role < roles_; ++role) {
    answer.value.push_back(nodes_->classes().goal(role, *worth));
  }
  if (root.node().over_class == ChoiceNode::open) find_best(root, *worth, want_all, answer);
  return answer;
}

}  // namespace orchard::solve_inner
