#include "solve/exact_search.hpp"

#include <xxhash.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "game/core.hpp"

namespace orchard::solve_inner {
namespace {

constexpr std::size_t first_table = std::size_t{1} << 14;  // positions
constexpr std::size_t largest_table = std::size_t{1} << 21;
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
    : game_(game),
      evaluator_(game),
      words_(game.words()),
      roles_(game.ground().moves().size()),
      shares_(game),
      joint_(roles_) {
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
  if (choosing.size() == 2) second_ = choosing.back();
  classes_.assign(shares_.values(first_).begin(), shares_.values(first_).end());
  classes_.push_back(GoalShares::undecided);
  std::ranges::sort(classes_);
  classes_.erase(std::unique(classes_.begin(), classes_.end()), classes_.end());
  of_class_.assign(roles_, std::vector<float>(classes_.size(), unknown_share));
  if (classes_.size() >= open) unsuited_ = Unsuited::many_values;
  levels_.resize(deepest + 1);
}

namespace {

// Shares are kept in single precision: goals are whole numbers again.
double goal_of(float share) {
  constexpr double finer_than_goals = 1e4;
  return std::round(100 * static_cast<double>(share) * finer_than_goals) / finer_than_goals;
}

}  // namespace

// What everybody gets where the first gets a value; not known of somebody who got several there.
std::optional<double> ExactSearch::value_of(std::size_t role, std::uint8_t value_class) const {
  const float share = role == first_ ? classes_[value_class] : of_class_[role][value_class];
  return share < 0 ? std::nullopt : std::optional(goal_of(share));
}

// Interests are opposed as long as the second gets less wherever the first gets more.
template <class Share>
std::uint8_t ExactSearch::class_of(Share&& share) {
  const auto at = static_cast<std::uint8_t>(std::ranges::lower_bound(classes_, share(first_)) -
                                            classes_.begin());
  for (std::size_t role = 0; role < roles_; ++role) {
    float& known = of_class_[role][at];
    if (role == first_ || known == several_shares) continue;
    const float here = share(role);
    if (known == here) continue;
    const bool is_new = known == unknown_share;
    if (second_ && role == *second_) {
      bool opposed = is_new;
      for (std::size_t other = 0; other < classes_.size() && opposed; ++other) {
        const float there = of_class_[role][other];
        if (there >= 0) opposed = other < at ? there > here : there < here;
      }
      known = here;
      if (!opposed) unsuited_ = Unsuited::shared_interests;
    } else {
      known = is_new ? here : several_shares;
    }
  }
  return at;
}

std::uint8_t ExactSearch::class_at(std::size_t at) {
  return class_of([&](std::size_t role) { return shares_.here(evaluator_, at, role); });
}

std::uint8_t ExactSearch::class_ahead(std::size_t at) {
  return class_of([&](std::size_t role) { return shares_.ahead(evaluator_, at, role); });
}

bool ExactSearch::spent() {
  if (ending_) return true;
  if (unsuited_) {
    ending_ = Ending::stopped;
    return true;
  }
  ending_ = stopwatch_->check(positions_ - first_position_, static_cast<std::uint64_t>(depth_));
  return ending_.has_value();
}

// Of the positions that were set.
void ExactSearch::read_nodes(std::size_t count, Level& level) {
  for (std::size_t at = 0; at < count; ++at) {
    Node node;
    bool over = evaluator_.terminal(at);
    std::size_t choosers = 0;
    node.first_move = static_cast<std::uint32_t>(level.moves.size());
    for (std::size_t role = 0; role < roles_; ++role) {
      std::uint32_t first = 0;
      if (!over) {
        evaluator_.legal(at, role, numbers_);
        if (numbers_.empty()) {
          over = true;
        } else {
          first = numbers_.front();
        }
        if (numbers_.size() > 1) {
          ++choosers;
          node.chooser = static_cast<std::uint8_t>(role);
          level.moves.insert(level.moves.end(), numbers_.begin(), numbers_.end());
        }
      }
      level.others.push_back(first);
    }
    if (over) {
      level.moves.resize(node.first_move);
      node.over_class = class_at(at);
    } else if (choosers == 0) {
      node.chooser = static_cast<std::uint8_t>(first_);
      level.moves.push_back(level.others[level.others.size() - roles_ + first_]);
    } else if (choosers > 1) {
      unsuited_ = Unsuited::choices_at_once;
    }
    node.moves = static_cast<std::uint32_t>(level.moves.size()) - node.first_move;
    level.nodes.push_back(node);
  }
}

void ExactSearch::put_joint(std::size_t at, const Level& level, std::size_t number,
                            std::uint32_t move) {
  for (std::size_t role = 0; role < roles_; ++role) {
    joint_[role] =
        role == level.nodes[number].chooser ? move : level.others[number * roles_ + role];
  }
  evaluator_.set_joint(at, joint_);
}

// All children of a position, in the order of its moves.
void ExactSearch::expand(const Question& at, Level& level) {
  level.rows.clear();
  level.nodes.clear();
  level.moves.clear();
  level.others.clear();
  const auto moves = std::span(at.in->moves).subspan(at.node->first_move, at.node->moves);
  std::vector<std::uint64_t> rows;
  for (std::size_t first = 0; first < moves.size(); first += LaneEvaluator::most) {
    const std::size_t count = std::min(LaneEvaluator::most, moves.size() - first);
    rows.clear();
    for (std::size_t i = 0; i < count; ++i) {
      rows.insert(rows.end(), at.row.begin(), at.row.end());
      put_joint(i, *at.in, at.number, moves[first + i]);
    }
    evaluator_.load(rows, count);
    evaluator_.step();
    rows.clear();
    for (std::size_t i = 0; i < count; ++i) {
      const auto row = evaluator_.next(i);
      rows.insert(rows.end(), row.begin(), row.end());
    }
    level.rows.insert(level.rows.end(), rows.begin(), rows.end());
    evaluator_.set_positions(rows, count);
    read_nodes(count, level);
  }
  positions_ += moves.size();
}

// The place of a position; what stood there may be another one.
std::size_t ExactSearch::place_of(std::span<const std::uint64_t> row) const {
  return XXH3_64bits(row.data(), row.size_bytes()) & (table_.size() - 1);
}

ExactSearch::Entry* ExactSearch::find(std::span<const std::uint64_t> row) {
  if (table_.empty()) return nullptr;
  const std::size_t place = place_of(row);
  const bool same = std::ranges::equal(std::span(keys_).subspan(place * words_, words_), row);
  return same ? &table_[place] : nullptr;
}

ExactSearch::Entry& ExactSearch::make(std::span<const std::uint64_t> row) {
  if (Entry* const known = find(row)) return *known;
  if (kept_ * 2 >= table_.size() && table_.size() < largest_table) grow();
  const std::size_t place = place_of(row);
  if (table_[place].upper == unused) ++kept_;
  std::ranges::copy(row, keys_.begin() + static_cast<std::ptrdiff_t>(place * words_));
  table_[place] = {0, static_cast<std::uint8_t>(classes_.size() - 1), 0, 0, none};
  return table_[place];
}

void ExactSearch::grow() {
  constexpr std::size_t times = 4;
  const std::vector<Entry> entries = std::move(table_);
  const std::vector<std::uint64_t> keys = std::move(keys_);
  const std::size_t size = entries.empty() ? first_table : entries.size() * times;
  table_.assign(size, {0, unused, 0, 0, none});
  keys_.assign(size * words_, ~std::uint64_t{0});
  kept_ = 0;
  for (std::size_t i = 0; i < entries.size(); ++i) {
    if (entries[i].upper != unused) make(std::span(keys).subspan(i * words_, words_)) = entries[i];
  }
}

// Whether the position is worth at least a class to the first role.
ExactSearch::Reply ExactSearch::ask(const Question& at, int depth, std::uint8_t wanted) {
  if (at.node->over_class != open) {
    return at.node->over_class >= wanted ? Reply::yes : Reply::no;
  }
  if (depth == 0) return Reply::unknown;
  if (spent()) return Reply::unknown;
  if (depth == 1) return look_at_ends(at, wanted);
  std::uint32_t best = none;
  if (const Entry* const known = find(at.row)) {
    if (known->lower >= wanted) return Reply::yes;
    if (known->upper < wanted) return Reply::no;
    if (known->asked == wanted && known->depth >= depth) return Reply::unknown;
    best = known->best;
  }
  const Reply reply = ask_children(at, depth, wanted, best);
  Entry& entry = make(at.row);
  if (best != none) entry.best = best;
  if (reply == Reply::yes) {
    entry.lower = std::max(entry.lower, wanted);
  } else if (reply == Reply::no) {
    entry.upper = std::min(entry.upper, static_cast<std::uint8_t>(wanted - 1));
  } else if (!ending_) {
    entry.asked = wanted;
    entry.depth = static_cast<std::uint8_t>(depth);
  }
  return reply;
}

ExactSearch::Reply ExactSearch::ask_children(const Question& at, int depth, std::uint8_t wanted,
                                             std::uint32_t& best) {
  Level& level = levels_[static_cast<std::size_t>(depth)];
  expand(at, level);
  if (unsuited_) return Reply::unknown;
  const bool first_chooses = at.node->chooser == first_;
  // The reply of a child that answers by itself.
  const Reply decisive = first_chooses ? Reply::yes : Reply::no;
  const auto moves = std::span(at.in->moves).subspan(at.node->first_move, at.node->moves);
  bool all = true;
  for (std::uint32_t i = 0; i < moves.size(); ++i) {
    const Node& child = level.nodes[i];
    if (child.over_class == open) {
      all = false;
      continue;
    }
    if ((child.over_class >= wanted ? Reply::yes : Reply::no) != decisive) continue;
    best = moves[i];
    return decisive;
  }
  if (all) return first_chooses ? Reply::no : Reply::yes;
  if (depth == 2) return ask_grandchildren(at, level, wanted);

  auto& history = history_[at.node->chooser];
  level.order.resize(moves.size());
  std::iota(level.order.begin(), level.order.end(), 0);
  const auto rank = [&](std::uint32_t i) { return moves[i] == best ? none : history[moves[i]]; };
  std::ranges::stable_sort(level.order, std::ranges::greater(), rank);
  bool unknown = false;
  for (const std::uint32_t i : level.order) {
    const Node& child = level.nodes[i];
    if (child.over_class != open) continue;  // not decisive
    const Question question{std::span(level.rows).subspan(i * words_, words_), &child, &level, i};
    const Reply reply = ask(question, depth - 1, wanted);
    if (reply == decisive) {
      best = moves[i];
      std::uint32_t& times = history[best];
      times += 1u << std::min(depth, 16);
      if (times > (none >> 2)) {
        for (std::uint32_t& other : history) other /= 2;
      }
      return decisive;
    }
    unknown = unknown || reply == Reply::unknown;
    if (ending_) return Reply::unknown;
  }
  return unknown ? Reply::unknown : decisive == Reply::yes ? Reply::no : Reply::yes;
}

// Two plies from the bottom: all children of all children at once, of which only ends count.
ExactSearch::Reply ExactSearch::ask_grandchildren(const Question& at, const Level& children,
                                                  std::uint8_t wanted) {
  const bool first_chooses = at.node->chooser == first_;
  const Reply decisive = first_chooses ? Reply::yes : Reply::no;
  bool unknown = false;
  std::size_t from = 0;
  std::vector<std::uint64_t> rows;
  while (from < children.nodes.size()) {
    // As many children as fit with all their moves.
    std::size_t until = from;
    std::size_t count = 0;
    rows.clear();
    for (; until < children.nodes.size(); ++until) {
      const Node& child = children.nodes[until];
      if (child.over_class != open) continue;
      if (count + child.moves > LaneEvaluator::most) break;
      const auto row = std::span(children.rows).subspan(until * words_, words_);
      for (std::uint32_t i = 0; i < child.moves; ++i) {
        put_joint(count++, children, until, children.moves[child.first_move + i]);
        rows.insert(rows.end(), row.begin(), row.end());
      }
    }
    if (until == from) return Reply::unknown;  // one child with more moves than lanes
    evaluator_.load(rows, count);
    evaluator_.judge_next();
    positions_ += count;
    const auto& terminal = evaluator_.next_terminal();
    std::size_t lane = 0;
    for (; from < until; ++from) {
      const Node& child = children.nodes[from];
      if (child.over_class != open) continue;
      const Reply of_child = child.chooser == first_ ? Reply::yes : Reply::no;
      bool decided = false;
      bool all = true;
      for (std::uint32_t i = 0; i < child.moves; ++i, ++lane) {
        if ((terminal.words[lane / 64] >> lane % 64 & 1) == 0) {
          all = false;
          continue;
        }
        const Reply reply = class_ahead(lane) >= wanted ? Reply::yes : Reply::no;
        decided = decided || reply == of_child;
      }
      const Reply reply = decided                  ? of_child
                          : !all                   ? Reply::unknown
                          : of_child == Reply::yes ? Reply::no
                                                   : Reply::yes;
      if (reply == decisive) return decisive;
      unknown = unknown || reply == Reply::unknown;
    }
  }
  return unknown ? Reply::unknown : decisive == Reply::yes ? Reply::no : Reply::yes;
}

ExactSearch::Reply ExactSearch::look_at_ends(const Question& at, std::uint8_t wanted) {
  Level& level = levels_[1];
  expand(at, level);
  const Reply decisive = at.node->chooser == first_ ? Reply::yes : Reply::no;
  bool all = true;
  for (const Node& child : level.nodes) {
    if (child.over_class == open) {
      all = false;
    } else if ((child.over_class >= wanted ? Reply::yes : Reply::no) == decisive) {
      return decisive;
    }
  }
  return !all ? Reply::unknown : decisive == Reply::yes ? Reply::no : Reply::yes;
}

// The class of a position that lies between two; none if the budget ends first.
std::optional<std::uint8_t> ExactSearch::settle(const Question& root, std::uint8_t lower,
                                                std::uint8_t upper) {
  for (depth_ = 1; depth_ <= deepest && lower < upper; ++depth_) {
    // What is just above the lower bound, and just at the upper.
    for (const bool high : {true, false}) {
      if (lower == upper) break;
      const auto wanted = high ? upper : static_cast<std::uint8_t>(lower + 1);
      const Reply reply = ask(root, depth_, wanted);
      if (ending_) return std::nullopt;
      if (reply == Reply::yes) lower = wanted;
      if (reply == Reply::no) upper = static_cast<std::uint8_t>(wanted - 1);
      if (lower + 1 == upper && high && reply == Reply::unknown) break;  // the same question
    }
  }
  if (lower == upper) return lower;
  ending_ = Ending::positions;
  return std::nullopt;
}

// Whether a position is worth at least a class; none if the budget ends first.
std::optional<bool> ExactSearch::reaches(const Question& root, int wanted) {
  if (wanted <= 0) return true;
  if (wanted >= static_cast<int>(classes_.size())) return false;
  for (int depth = 1; depth <= deepest; ++depth) {
    const Reply reply = ask(root, depth, static_cast<std::uint8_t>(wanted));
    if (ending_) return std::nullopt;
    if (reply != Reply::unknown) return reply == Reply::yes;
  }
  return std::nullopt;
}

ExactSearch::Answer ExactSearch::solve(const Row& row, const Budget& budget, bool want_all) {
  Answer answer;
  stopwatch_.emplace(budget);
  ending_.reset();
  first_position_ = positions_;
  const auto give_up = [&] {
    answer.ending = ending_.value_or(Ending::stopped);
    return answer;
  };
  if (unsuited_) return give_up();
  root_ = {};
  root_.rows = row;
  evaluator_.set_positions(row, 1);
  read_nodes(1, root_);
  const Question root{root_.rows, &root_.nodes.front(), &root_, 0};
  const Node& node = root_.nodes.front();
  const auto highest = static_cast<std::uint8_t>(classes_.size() - 1);
  const auto worth =
      node.over_class != open ? std::optional(node.over_class) : settle(root, 0, highest);
  if (!worth || unsuited_) return give_up();
  for (std::size_t role = 0; role < roles_; ++role) answer.value.push_back(value_of(role, *worth));
  if (node.over_class != open) return answer;

  // The moves after which it is worth as much: asked of each.
  answer.chooser = node.chooser;
  Level children;
  expand(root, children);
  const bool first_chooses = node.chooser == first_;
  std::vector<std::uint32_t> order(node.moves);
  std::iota(order.begin(), order.end(), 0);
  if (const Entry* const known = find(row); known != nullptr && known->best != none) {
    std::stable_partition(order.begin(), order.end(),
                          [&](std::uint32_t i) { return root_.moves[i] == known->best; });
  }
  answer.all_best = true;
  for (const std::uint32_t i : order) {
    const Node& child = children.nodes[i];
    // It is never worth more than that to whoever chooses.
    std::optional<bool> good;
    if (child.over_class != open) {
      good = child.over_class == *worth;
    } else {
      const auto row_of_child = std::span(children.rows).subspan(i * words_, words_);
      const auto reached =
          reaches({row_of_child, &child, &children, i}, first_chooses ? *worth : *worth + 1);
      if (reached) good = *reached == first_chooses;
    }
    if (!good) {
      answer.all_best = false;
      continue;
    }
    if (*good) answer.best.push_back(root_.moves[i]);
    if (*good && !want_all) {
      answer.all_best = false;
      break;
    }
  }
  std::ranges::sort(answer.best);
  return answer;
}

}  // namespace orchard::solve_inner
