#include "faults/edits.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <atomic>
#include <functional>
#include <map>
#include <optional>
#include <set>

#include "base/interruption.hpp"
#include "syntax/reader.hpp"
#include "threads/crew.hpp"

namespace orchard::faults {
namespace {

using syntax::NodeIndex;
using syntax::Tree;

class EditFinder {
 public:
  // `repairs`: whatever could stand somewhere, and what could be added.
  explicit EditFinder(const syntax::Source& source, bool repairs)
      : source_(source), tree_(syntax::read(source, {}, ignored_)), repairs_(repairs) {
    gather_rules();
    for (const NodeIndex rule : rules_) gather_names(rule);
  }

  std::vector<Edit> find() {
    for (const NodeIndex rule : rules_) drop_conditions(rule);
    for (const NodeIndex rule : rules_) flip_negations(rule);
    for (const NodeIndex rule : rules_) each_atom(rule, [&](NodeIndex atom) { swap_names(atom); });
    for (const NodeIndex rule : rules_) {
      each_atom(rule, [&](NodeIndex atom) { swap_arguments(atom); });
    }
    for (const NodeIndex rule : rules_) confuse_variables(rule);
    for (const NodeIndex rule : rules_) {
      add(FaultKind::rule_removed, rule, fmt::format("{} is left out", shortened(written(rule))),
          {{begin(rule), end(rule), ""}});
    }
    for (const NodeIndex loop : loops_) shorten_range(loop);
    swap_goals();
    if (repairs_) {
      add_rules();
      add_conditions();
    }
    return std::move(edits_);
  }

 private:
  std::uint32_t begin(NodeIndex node) const { return tree_[node].begin; }
  std::uint32_t end(NodeIndex node) const { return tree_[node].end; }
  std::string written(NodeIndex node) const {
    return std::string(source_.text().substr(begin(node), end(node) - begin(node)));
  }
  std::string shown(NodeIndex node) const {
    return tree_.canonical_text(node, node + tree_[node].size);
  }
  // The first line of a rule.
  static std::string shortened(std::string text) {
    constexpr std::size_t most = 60;
    const std::size_t line = text.find('\n');
    if (line == std::string::npos && text.size() <= most) return text;
    text.resize(std::min({line, most, text.size()}));
    while (text.ends_with(' ')) text.pop_back();
    return text + " …";
  }
  void add(FaultKind kind, NodeIndex at, std::string change, std::vector<Stretch> stretches) {
    edits_.push_back({kind, tree_.place(at), std::move(change), std::move(stretches)});
  }

  bool is_rule(NodeIndex node) const { return tree_.head(node) == "<="; }
  bool is_connective(NodeIndex node) const {
    const std::string_view head = tree_.head(node);
    return tree_.is_list(node) && (head == "and" || head == "or" || head == "not" || head == "<=");
  }
  bool is_directive(NodeIndex node) const {
    return tree_.is_list(node) && tree_.head(node).starts_with('#');
  }

  void gather_rules() {
    std::vector<NodeIndex> open(tree_.forms().rbegin(), tree_.forms().rend());
    while (!open.empty()) {
      const NodeIndex form = open.back();
      open.pop_back();
      if (tree_.head(form) == "#for") {
        const std::vector<NodeIndex> parts = tree_.children(form);
        constexpr std::size_t first_form = 4;
        if (parts.size() <= first_form) continue;
        loops_.push_back(form);
        open.insert(open.end(), parts.rbegin(),
                    parts.rend() - static_cast<std::ptrdiff_t>(first_form));
      } else if (tree_.is_list(form) && !is_directive(form)) {
        rules_.push_back(form);
      }
    }
  }

  std::vector<NodeIndex> conditions(NodeIndex rule) const {
    if (!is_rule(rule)) return {};
    std::vector<NodeIndex> parts = tree_.children(rule);
    parts.erase(parts.begin(), parts.begin() + std::min<std::ptrdiff_t>(2, std::ssize(parts)));
    return parts;
  }

  // The atoms and terms of a rule that have arguments: all lists that are no connectives.
  void each_atom(NodeIndex rule, const std::function<void(NodeIndex)>& visit) {
    for (NodeIndex at = rule; at < rule + tree_[rule].size; ++at) {
      if (!tree_.is_list(at) || is_connective(at) || is_directive(at)) continue;
      if (!in_directive(rule, at)) visit(at);
    }
  }
  // Within (#+ …), (#count …) and the like.
  bool in_directive(NodeIndex rule, NodeIndex node) const {
    for (NodeIndex at = rule; at < node; ++at) {
      if (is_directive(at) && node < at + tree_[at].size) return true;
    }
    return false;
  }

  // Which names stand at an argument, by what they are arguments of.
  using Position = std::tuple<std::string, std::size_t, std::size_t>;
  Position position_of(NodeIndex atom, std::size_t argument, std::size_t arity) const {
    return {std::string(tree_.head(atom)), arity, argument};
  }
  void gather_names(NodeIndex rule) {
    each_atom(rule, [&](NodeIndex atom) {
      const std::vector<NodeIndex> parts = tree_.children(atom);
      for (std::size_t i = 1; i < parts.size(); ++i) {
        if (tree_.is_symbol(parts[i])) {
          names_[position_of(atom, i, parts.size())].insert(std::string(tree_[parts[i]].text));
        }
      }
    });
  }

  void drop_conditions(NodeIndex rule) {
    for (const NodeIndex condition : conditions(rule)) {
      add(FaultKind::condition_dropped, condition,
          fmt::format("{} is dropped", shortened(shown(condition))),
          {{begin(condition), end(condition), ""}});
      if (tree_.head(condition) != "or" || !tree_.is_list(condition)) continue;
      const std::vector<NodeIndex> ways = tree_.children(condition);
      for (std::size_t i = 1; i < ways.size() && ways.size() > 2; ++i) {
        add(FaultKind::condition_dropped, ways[i],
            fmt::format("{} is dropped from an or", shortened(shown(ways[i]))),
            {{begin(ways[i]), end(ways[i]), ""}});
      }
    }
  }

  void flip_negations(NodeIndex rule) {
    for (const NodeIndex condition : conditions(rule)) {
      if (tree_.is_list(condition) && tree_.head(condition) == "not") {
        const std::vector<NodeIndex> parts = tree_.children(condition);
        if (parts.size() != 2) continue;
        add(FaultKind::negation_flipped, condition,
            fmt::format("{} loses its not", shortened(shown(condition))),
            {{begin(condition), end(condition), written(parts[1])}});
      } else if (!is_connective(condition) && !is_directive(condition)) {
        add(FaultKind::negation_flipped, condition,
            fmt::format("{} is negated", shortened(shown(condition))),
            {{begin(condition), begin(condition), "(not "}, {end(condition), end(condition), ")"}});
      }
    }
  }

  // The next number, or the next name that stands at the same argument somewhere.
  void swap_names(NodeIndex atom) {
    const std::vector<NodeIndex> parts = tree_.children(atom);
    for (std::size_t i = 1; i < parts.size(); ++i) {
      if (!tree_.is_symbol(parts[i])) continue;
      const std::string own(tree_[parts[i]].text);
      for (const std::string& other : others_for(own, position_of(atom, i, parts.size()))) {
        add(FaultKind::constant_swapped, parts[i],
            fmt::format("{} becomes {} in {}", own, other, shortened(shown(atom))),
            {{begin(parts[i]), end(parts[i]), other}});
      }
    }
  }
  std::vector<std::string> others_for(const std::string& own, const Position& position) {
    const auto number = Term::constant(own).number();
    std::set<std::string> others = names_[position];
    others.erase(own);
    if (!repairs_ && number) return {std::to_string(*number + 1)};
    if (!repairs_ && others.empty()) return {};
    if (!repairs_) {
      const auto next = others.upper_bound(own);
      return {next == others.end() ? *others.begin() : *next};
    }
    if (number) {
      others.insert(std::to_string(*number + 1));
      others.insert(std::to_string(*number - 1));
    }
    if (position == Position{"goal", 3, 2}) others.insert({"0", "50", "100"});
    others.erase(own);
    return {others.begin(), others.end()};
  }

  void swap_arguments(NodeIndex atom) {
    if (tree_.head(atom) == "distinct") return;
    const std::vector<NodeIndex> parts = tree_.children(atom);
    for (std::size_t i = 1; i + 1 < parts.size(); ++i) {
      const NodeIndex first = parts[i];
      const NodeIndex second = parts[i + 1];
      if (shown(first) == shown(second)) continue;
      add(FaultKind::arguments_swapped, first,
          fmt::format("{} and {} change places in {}", shown(first), shown(second),
                      shortened(shown(atom))),
          {{begin(first), end(first), written(second)},
           {begin(second), end(second), written(first)}});
    }
  }

  std::vector<std::string> variables_of(NodeIndex node) const {
    std::vector<std::string> names;
    for (NodeIndex at = node; at < node + tree_[node].size; ++at) {
      if (tree_.is_variable(at) && std::ranges::find(names, tree_[at].text) == names.end()) {
        names.emplace_back(tree_[at].text);
      }
    }
    return names;
  }
  // Each occurrence becomes the next variable of its rule; to mend, any other one.
  void confuse_variables(NodeIndex rule) {
    const std::vector<std::string> names = variables_of(rule);
    for (NodeIndex at = rule; at < rule + tree_[rule].size; ++at) {
      if (!tree_.is_variable(at) || in_directive(rule, at)) continue;
      const auto own =
          static_cast<std::size_t>(std::ranges::find(names, tree_[at].text) - names.begin());
      const std::size_t last = repairs_ ? names.size() : std::min<std::size_t>(names.size(), 2);
      for (std::size_t further = 1; further < last; ++further) {
        const std::string& other = names[(own + further) % names.size()];
        add(FaultKind::variable_confused, at, fmt::format("{} becomes {}", names[own], other),
            {{begin(at), end(at), other}});
      }
    }
  }

  // Conditions that stand somewhere with variables of the rule alone, or are like one of the rule's
  // own but for one variable.
  void add_conditions() {
    std::set<std::string> known;
    std::vector<std::pair<std::string, std::vector<std::string>>> pool;  // with their variables
    const auto offer = [&](const std::string& condition, NodeIndex variables) {
      if (known.insert(condition).second) pool.emplace_back(condition, variables_of(variables));
    };
    for (const NodeIndex rule : rules_) {
      for (const NodeIndex condition : conditions(rule)) {
        offer(shown(condition), condition);
        if (!is_connective(condition)) offer(fmt::format("(not {})", shown(condition)), condition);
      }
      // Of what moves change somebody may want to know whether it holds.
      const std::vector<NodeIndex> parts = tree_.children(rule);
      const NodeIndex head = is_rule(rule) && parts.size() > 1 ? parts[1] : rule;
      const std::vector<NodeIndex> of_head = tree_.children(head);
      if (tree_.head(head) != "next" || of_head.size() != 2) continue;
      offer(fmt::format("(true {})", shown(of_head[1])), of_head[1]);
      offer(fmt::format("(not (true {}))", shown(of_head[1])), of_head[1]);
    }
    for (const NodeIndex rule : rules_) {
      if (!is_rule(rule)) continue;
      const std::vector<std::string> own = variables_of(rule);
      std::set<std::string> added;
      for (const NodeIndex condition : conditions(rule)) added.insert(shown(condition));
      const auto add_condition = [&](const std::string& condition) {
        if (!added.insert(condition).second) return;
        add(FaultKind::condition_added, rule, fmt::format("{} is added", condition),
            {{end(rule) - 1, end(rule) - 1, "\n    " + condition}});
      };
      for (const auto& [condition, variables] : pool) {
        const bool fits = std::ranges::all_of(variables, [&](const std::string& variable) {
          return std::ranges::find(own, variable) != own.end();
        });
        if (fits) add_condition(condition);
      }
      for (const NodeIndex condition : conditions(rule)) {
        each_variable_changed(condition, own, add_condition);
      }
    }
  }
  // The text of a node with one variable changed.
  void each_variable_changed(NodeIndex node, const std::vector<std::string>& others,
                             const std::function<void(const std::string&)>& visit) const {
    const std::string text = written(node);
    for (NodeIndex at = node; at < node + tree_[node].size; ++at) {
      if (!tree_.is_variable(at)) continue;
      for (const std::string& other : others) {
        std::string changed = text;
        changed.replace(begin(at) - begin(node), end(at) - begin(at), other);
        visit(changed);
      }
    }
  }

  // Rules and facts like one that is there but for one small edit.
  void add_rules() {
    const std::vector<Edit> edits = edits_;
    std::set<std::string> added;
    for (const NodeIndex rule : rules_) added.insert(shown(rule));
    for (const Edit& edit : edits) {
      const bool is_change =
          edit.kind == FaultKind::constant_swapped || edit.kind == FaultKind::arguments_swapped ||
          edit.kind == FaultKind::variable_confused || edit.kind == FaultKind::negation_flipped;
      if (!is_change) continue;
      const auto rule = std::ranges::find_if(rules_, [&](NodeIndex node) {
        return begin(node) <= edit.stretches.front().begin &&
               edit.stretches.back().end <= end(node);
      });
      if (rule == rules_.end()) continue;
      Edit within = edit;
      for (Stretch& stretch : within.stretches) {
        stretch.begin -= begin(*rule);
        stretch.end -= begin(*rule);
      }
      const std::string text = edited(written(*rule), within);
      if (!added.insert(text).second) continue;
      add(FaultKind::rule_added, *rule, fmt::format("{} is added", shortened(text)),
          {{end(*rule), end(*rule), "\n" + text}});
    }
  }

  void shorten_range(NodeIndex loop) {
    const std::vector<NodeIndex> parts = tree_.children(loop);
    const auto change = [&](NodeIndex bound, const char* by, const char* words) {
      const auto number = Term::constant(written(bound)).number();
      std::string other = fmt::format("({} {} 1)", by, written(bound));
      if (number) other = std::to_string(*number + (by == std::string_view("#+") ? 1 : -1));
      add(FaultKind::range_off_by_one, bound,
          fmt::format("the range of {} {}", shown(parts[1]), words),
          {{begin(bound), end(bound), other}});
    };
    change(parts[2], "#+", "begins one later");
    change(parts[3], "#-", "ends one earlier");
    if (!repairs_) return;
    change(parts[2], "#-", "begins one earlier");
    change(parts[3], "#+", "ends one later");
  }

  // The value of a goal rule, if it is a number.
  std::optional<NodeIndex> goal_value(NodeIndex rule) const {
    const std::vector<NodeIndex> parts = tree_.children(rule);
    const NodeIndex head = is_rule(rule) && parts.size() > 1 ? parts[1] : rule;
    if (!tree_.is_list(head) || tree_.head(head) != "goal") return std::nullopt;
    const std::vector<NodeIndex> arguments = tree_.children(head);
    if (arguments.size() != 3 || !tree_.is_symbol(arguments[2])) return std::nullopt;
    return arguments[2];
  }

  void swap_goals() {
    std::vector<NodeIndex> values;
    for (const NodeIndex rule : rules_) {
      if (const auto value = goal_value(rule)) values.push_back(*value);
    }
    for (std::size_t i = 0; i < values.size(); ++i) {
      for (std::size_t k = i + 1; k < values.size(); ++k) {
        const std::string first = written(values[i]);
        const std::string second = written(values[k]);
        if (first == second) continue;
        add(FaultKind::goals_swapped, values[i],
            fmt::format("the goals {} and {} (line {}) change places", first, second,
                        tree_.place(values[k]).line),
            {{begin(values[i]), end(values[i]), second},
             {begin(values[k]), end(values[k]), first}});
      }
    }
  }

  const syntax::Source& source_;
  Diagnostics ignored_;
  Tree tree_;
  bool repairs_;
  std::vector<NodeIndex> rules_;  // in the order of the text, those within loops too
  std::vector<NodeIndex> loops_;
  std::map<Position, std::set<std::string>> names_;
  std::vector<Edit> edits_;
};

}  // namespace

std::vector<Edit> edits_of(const syntax::Source& source) {
  return EditFinder(source, false).find();
}

std::vector<Edit> repairs_of(const syntax::Source& source) {
  return EditFinder(source, true).find();
}

Result<syntax::Source> source_to_edit(const std::string& path) {
  if (path.ends_with(".gdli")) {
    return plain_error("not-prefix", "rules are edited in the prefix syntax only",
                       "write it so first: orchard format GAME --to prefix --output NAME.gdl");
  }
  return syntax::Source::from_file(path);
}

Tried try_each(std::size_t edits, unsigned threads, const std::function<void(std::size_t)>& attempt,
               const std::function<void(std::size_t done)>& visit) {
  std::atomic<std::size_t> done = 0;
  Tried tried;
  try {
    Crew crew(threads);
    crew.work(edits, [&](std::size_t worker, std::size_t job) {
      end_if_interrupted();
      attempt(job);
      ++done;
      if (worker == 0 && visit) visit(done);
    });
  } catch (const Interrupted& interrupted) {
    tried.ending = interrupted.ending;
  }
  tried.done = done;
  return tried;
}

std::string edited(std::string_view text, const Edit& edit) {
  std::vector<Stretch> stretches = edit.stretches;
  std::ranges::sort(stretches, std::greater(), &Stretch::begin);
  std::string result(text);
  for (const Stretch& stretch : stretches) {
    result.replace(stretch.begin, stretch.end - stretch.begin, stretch.text);
  }
  return result;
}

}  // namespace orchard::faults
