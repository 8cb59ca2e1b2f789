// Bodies become disjunctive normal form. Nesting is the user's to choose, so the expansion keeps
// a list of conditions still to be read instead of recursing; negation is pushed inwards on the
// way (not over and/or by De Morgan, not over not away). The number of clauses a rule may become
// is bounded: a rule that multiplies out past the bound is refused with advice to name parts of
// it. The alternative, one helper relation for each `or`, would be smaller but is unsafe when a
// branch only tests variables bound outside of it.
#include "base/interruption.hpp"
#include "rules/builder.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "rules/keywords.hpp"

namespace orchard::rules {

using syntax::NodeIndex;

namespace {

constexpr std::size_t most_alternatives = 4096;  // clauses a rule
constexpr std::size_t most_copied = 2'000'000;   // conditions copied while expanding a rule

}  // namespace

DescriptionBuilder::DescriptionBuilder(syntax::Tree tree, Diagnostics& diagnostics)
    : diagnostics_(diagnostics), result_(new Description(std::move(tree))), tree_(result_->tree_) {}

std::shared_ptr<Description> DescriptionBuilder::run() {
  InterruptionPoint interruption;
  for (const NodeIndex form : tree_.forms()) {
    interruption.pass();
    read_form(form);
  }
  resolve_bare_symbols();
  return result_;
}

bool DescriptionBuilder::error(NodeIndex node, std::string code, std::string message,
                               Remedy remedy) {
  syntax::report(tree_, node, std::move(code), std::move(message), std::move(remedy), diagnostics_);
  return false;
}

void DescriptionBuilder::read_form(NodeIndex form) {
  if (!tree_.is_list(form)) {
    bare_symbols_.push_back(form);
    return;
  }
  if (tree_.head(form) == "<=") {
    read_rule(form);
    return;
  }
  begin_rule(form);
  if (auto head = read_atom(form, true)) add_clause(std::move(*head), {});
}

void DescriptionBuilder::read_rule(NodeIndex form) {
  const std::vector<NodeIndex> parts = tree_.children(form);
  if (parts.size() < 2) {
    error(form, "rule-without-head", "a rule needs a head",
          "write (<= HEAD CONDITION…), or remove it");
    return;
  }
  begin_rule(form);
  const auto head = read_atom(parts[1], true);
  std::vector<Condition> conditions;
  for (std::size_t i = parts.size(); i-- > 2;) conditions.push_back({parts[i], false});
  std::vector<std::vector<Literal>> bodies;
  const bool well_read = read_body(std::move(conditions), bodies);
  if (head) result_->relations_[index_of(head->relation)].concluded = true;
  if (!head || !well_read) return;
  for (std::vector<Literal>& body : bodies) add_clause(*head, std::move(body));
}

// A name alone at the top level is a fact by the grammar, but far more often a slip. It is taken
// as a fact if the description uses that name as a relation without arguments.
void DescriptionBuilder::resolve_bare_symbols() {
  for (const NodeIndex form : bare_symbols_) {
    const std::string_view name = tree_[form].text;
    const auto known = result_->find(name, 0);
    if (tree_.is_symbol(form) && !is_connective(name) && (known || name == "terminal")) {
      begin_rule(form);
      if (auto head = read_atom(form, true)) add_clause(std::move(*head), {});
    } else {
      error(form, "stray-symbol", fmt::format("{} stands alone between the rules", name),
            "put it inside a rule, or write (" + std::string(name) + ") if it is a fact");
    }
  }
}

bool DescriptionBuilder::read_body(std::vector<Condition> conditions,
                                   std::vector<std::vector<Literal>>& bodies) {
  const NodeIndex rule = result_->rules_.back().node;
  std::vector<Alternative> open{{std::move(conditions), {}}};
  bool well_read = true;
  copied_ = 0;
  while (!open.empty()) {
    Alternative alternative = std::move(open.back());
    open.pop_back();
    bool alive = true;
    while (alive && !alternative.pending.empty()) {
      const Condition condition = alternative.pending.back();
      alternative.pending.pop_back();
      const std::size_t errors = diagnostics_.errors();
      alive = expand(condition, alternative, open);
      well_read = well_read && errors == diagnostics_.errors();
      if (open.size() + bodies.size() > most_alternatives || copied_ > most_copied) {
        return error(rule, "too-many-alternatives",
                     fmt::format("this rule stands for more than {} clauses", most_alternatives),
                     "give the parts under `or` relations of their own");
      }
    }
    if (!well_read) return false;
    if (alive) bodies.push_back(std::move(alternative.literals));
  }
  return true;
}

// Reads one condition into `alternative`. False if the alternative cannot hold or, with an error
// reported, was not understood.
bool DescriptionBuilder::expand(Condition condition, Alternative& alternative,
                                std::vector<Alternative>& others) {
  const std::string_view head = tree_.head(condition.node);
  if (tree_.is_list(condition.node) && is_connective(head)) {
    return read_connective(condition, head, alternative, others);
  }
  auto atom = read_atom(condition.node, false);
  if (!atom) return true;  // go on, to find further mistakes in this rule
  alternative.literals.push_back(
      {condition.negated ? Literal::Kind::negative : Literal::Kind::positive, std::move(*atom)});
  return true;
}

bool DescriptionBuilder::read_connective(Condition condition, std::string_view head,
                                         Alternative& alternative,
                                         std::vector<Alternative>& others) {
  std::vector<NodeIndex> parts = tree_.children(condition.node);
  parts.erase(parts.begin());
  if (head == "<=") {
    return error(condition.node, "rule-in-rule", "a rule cannot stand inside a rule",
                 "close the rule before this one");
  }
  if (head == "distinct") {
    if (auto literal = read_comparison(condition)) {
      alternative.literals.push_back(std::move(*literal));
    }
    return true;
  }
  if (head == "not") {
    if (parts.size() != 1) {
      return error(condition.node, "keyword-arity",
                   fmt::format("`not` takes one condition, here are {}", parts.size()),
                   "write (not (and …)) or one `not` for each");
    }
    alternative.pending.push_back({parts.front(), !condition.negated});
    return true;
  }
  const bool all_needed = (head == "and") != condition.negated;
  if (!all_needed) {
    if (parts.empty()) return false;
    for (std::size_t i = parts.size(); i-- > 1;) {
      Alternative other = alternative;
      copied_ += other.literals.size() + other.pending.size() + 1;
      if (copied_ > most_copied) break;
      other.pending.push_back({parts[i], condition.negated});
      others.push_back(std::move(other));
    }
    parts.resize(1);
  }
  for (std::size_t i = parts.size(); i-- > 0;) {
    alternative.pending.push_back({parts[i], condition.negated});
  }
  return true;
}

std::optional<Literal> DescriptionBuilder::read_comparison(Condition condition) {
  const std::vector<NodeIndex> parts = tree_.children(condition.node);
  if (parts.size() != 3) {
    error(condition.node, "keyword-arity",
          fmt::format("`distinct` takes 2 terms, here {} {}", parts.size() == 2 ? "is" : "are",
                      parts.size() - 1),
          "write (distinct TERM TERM)");
    return std::nullopt;
  }
  Literal literal;
  literal.kind = condition.negated ? Literal::Kind::equal : Literal::Kind::distinct;
  literal.atom.node = condition.node;
  const bool first = read_pattern(parts[1], literal.atom.arguments);
  const bool second = read_pattern(parts[2], literal.atom.arguments);
  return first && second ? std::optional(std::move(literal)) : std::nullopt;
}

std::optional<Atom> DescriptionBuilder::read_atom(NodeIndex node, bool in_head) {
  const std::string_view name = tree_.head(node);
  if (name.empty()) {
    const bool variable =
        tree_.is_variable(node) || (tree_[node].children > 0 && tree_.is_variable(node + 1));
    error(node, "not-a-condition",
          variable  ? "a variable cannot stand for a relation"
          : in_head ? "this is not a fact or the head of a rule"
                    : "this is not a condition",
          "begin with the name of a relation");
    return std::nullopt;
  }
  constexpr std::string_view arrows[] = {"=>", "<-", "->", ":-", "<==", "<-=", "⇐"};
  if (in_head && std::ranges::find(arrows, name) != std::end(arrows)) {
    error(node, "keyword-place", fmt::format("`{}` does not make a rule", name),
          "write (<= HEAD CONDITION…)");
    return std::nullopt;
  }
  if (is_connective(name)) {
    error(node, "keyword-place", fmt::format("`{}` cannot stand here", name),
          in_head ? "a rule's head is one atom; write (<= HEAD CONDITION…)" : "remove it");
    return std::nullopt;
  }
  std::vector<NodeIndex> parts;
  if (tree_.is_list(node)) {
    parts = tree_.children(node);
    parts.erase(parts.begin());
  }
  const auto arity = static_cast<std::uint32_t>(parts.size());
  if (!check_keyword(node, name, arity, in_head)) return std::nullopt;
  Atom atom;
  atom.node = node;
  bool well_read = true;
  for (const NodeIndex part : parts) well_read = read_pattern(part, atom.arguments) && well_read;
  if (!well_read) return std::nullopt;
  atom.relation = relation(name, arity, node);
  return atom;
}

bool DescriptionBuilder::check_keyword(NodeIndex node, std::string_view name, std::uint32_t arity,
                                       bool in_head) {
  const KeywordFacts* keyword = find_keyword(name);
  if (keyword == nullptr) return true;
  if (arity != keyword->arity) {
    return error(node, "keyword-arity",
                 fmt::format("`{}` takes {} argument{}, here {} {}", name, keyword->arity,
                             keyword->arity == 1 ? "" : "s", arity == 1 ? "is" : "are", arity),
                 fmt::format("write {}", keyword->shape));
  }
  if (in_head && !keyword->in_heads) {
    return error(node, "keyword-place", fmt::format("`{}` cannot be concluded", name),
                 keyword->keyword == Keyword::true_
                     ? "use `init` for the start and `next` for what a move changes"
                     : "moves are chosen by the roles; use `legal` to say which ones may be");
  }
  if (!in_head && !keyword->in_bodies) {
    return error(node, "keyword-place", fmt::format("`{}` cannot be a condition", name),
                 keyword->keyword == Keyword::sees ? "repeat the conditions of the percept here"
                                                   : "use `true` for what holds in the position");
  }
  return true;
}

bool DescriptionBuilder::read_pattern(NodeIndex node, Pattern& pattern) {
  const auto nodes = syntax::term_nodes(tree_, node);
  if (!nodes) {
    diagnostics_.append(nodes.diagnostics());
    return false;
  }
  Pattern term;
  term.reserve(nodes->size());
  for (const syntax::TermNode& next : *nodes) {
    PatternSymbol symbol;
    symbol.node = next.node;
    symbol.arity = next.arity;
    if (tree_.is_variable(next.node)) {
      symbol.kind = PatternSymbol::Kind::variable;
      symbol.value = variable(next.node);
    } else {
      symbol.kind = next.arity > 0 ? PatternSymbol::Kind::function : PatternSymbol::Kind::constant;
      symbol.value = static_cast<std::uint32_t>(result_->terms_->add_symbol(tree_[next.node].text));
    }
    term.push_back(symbol);
  }
  syntax::assign_sizes(term);
  pattern.insert(pattern.end(), term.begin(), term.end());
  return true;
}

std::uint32_t DescriptionBuilder::variable(NodeIndex node) {
  std::vector<std::string_view>& names = result_->rules_.back().variables;
  const auto [entry, is_new] =
      variables_.try_emplace(tree_[node].text, static_cast<std::uint32_t>(names.size()));
  if (is_new) names.push_back(tree_[node].text);
  return entry->second;
}

void DescriptionBuilder::begin_rule(NodeIndex node) {
  result_->rules_.push_back({node, {}});
  variables_.clear();
}

RelationId DescriptionBuilder::relation(std::string_view name, std::uint32_t arity,
                                        NodeIndex node) {
  const SymbolId symbol = result_->terms_->add_symbol(name);
  const auto [entry, is_new] = result_->by_name_.try_emplace(
      {symbol, arity}, RelationId{static_cast<std::uint32_t>(result_->relations_.size())});
  if (is_new) {
    const KeywordFacts* keyword = find_keyword(name);
    result_->relations_.push_back(
        {symbol, arity, keyword == nullptr ? Keyword::none : keyword->keyword, node, false, {}});
  }
  return entry->second;
}

void DescriptionBuilder::add_clause(Atom head, std::vector<Literal> body) {
  if (result_->relation(head.relation).keyword == Keyword::role) {
    if (!body.empty() || result_->rules_.back().variables.size() > 0) {
      error(head.node, "role-not-a-fact", "`role` takes facts without variables only",
            "write one (role NAME) for each role");
      return;
    }
    add_role(head);
  }
  Relation& relation = result_->relations_[index_of(head.relation)];
  relation.concluded = true;
  relation.clauses.push_back(static_cast<std::uint32_t>(result_->clauses_.size()));
  const auto rule = static_cast<std::uint32_t>(result_->rules_.size() - 1);
  result_->clauses_.push_back({std::move(head), std::move(body), rule});
}

void DescriptionBuilder::add_role(const Atom& head) {
  std::vector<Term::Symbol> symbols;
  for (const PatternSymbol& next : head.arguments) {
    symbols.push_back({result_->terms_->name(next.symbol()), next.arity, next.size});
  }
  const TermId role = result_->terms_->add(Term::from_symbols(std::move(symbols)));
  if (std::ranges::find(result_->roles_, role) == result_->roles_.end()) {
    result_->roles_.push_back(role);
  }
}

}  // namespace orchard::rules
