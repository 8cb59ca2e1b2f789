// What the rules make and never ask for: relations without a condition that asks for them, fluents
// that nothing but themselves depends on.
#include <fmt/core.h>

#include <algorithm>
#include <map>

#include "base/similar.hpp"
#include "rules/domains.hpp"
#include "rules/finding_sink.hpp"

namespace orchard::rules {
namespace {

// Facts of two arguments may be there for the drawing alone, which follows the orders they give.
bool may_be_order(const Description& description, const Relation& relation) {
  return relation.arity == 2 && std::ranges::all_of(relation.clauses, [&](std::uint32_t number) {
           return description.clauses()[number].body.empty();
         });
}

// The relations and fluents that moves, values, ends or percepts depend on, however far.
class Asked {
 public:
  explicit Asked(const Description& description) : description_(description) {
    for (const Keyword keyword :
         {Keyword::legal, Keyword::goal, Keyword::terminal, Keyword::sees}) {
      if (const auto relation = description.find(keyword)) ask(*relation);
    }
    while (!pending_.empty()) {
      const Clause& clause = *pending_.back();
      pending_.pop_back();
      for (const Literal& literal : clause.body) ask(literal);
    }
  }

  bool for_fluent(const Domains::Name& name) const {
    return all_fluents_ || fluents_.contains(name);
  }

 private:
  void ask(const Literal& literal) {
    if (literal.is_comparison()) return;
    if (description_.relation(literal.atom.relation).keyword != Keyword::true_) {
      return ask(literal.atom.relation);
    }
    const PatternSymbol& fluent = literal.atom.arguments.front();
    if (fluent.kind == PatternSymbol::Kind::variable) {
      all_fluents_ = true;
      return;
    }
    if (!fluents_.insert({fluent.symbol(), fluent.arity}).second) return;
    const auto next = description_.find(Keyword::next);
    if (!next) return;
    for (const std::uint32_t number : description_.relation(*next).clauses) {
      const Clause& clause = description_.clauses()[number];
      const PatternSymbol& made = clause.head.arguments.front();
      const bool any = made.kind == PatternSymbol::Kind::variable;
      if (any || (made.value == fluent.value && made.arity == fluent.arity)) {
        pending_.push_back(&clause);
      }
    }
  }
  void ask(RelationId relation) {
    if (!relations_.insert(relation).second) return;
    for (const std::uint32_t number : description_.relation(relation).clauses) {
      pending_.push_back(&description_.clauses()[number]);
    }
  }

  const Description& description_;
  absl::flat_hash_set<RelationId> relations_;
  absl::flat_hash_set<Domains::Name> fluents_;
  bool all_fluents_ = false;
  std::vector<const Clause*> pending_;
};

// A single fact that is spelled nearly like those of a table, with as many arguments.
std::optional<std::string> of_which_table(const Description& description,
                                          const Relation& relation) {
  if (relation.clauses.size() != 1 || !is_table(description, relation)) return std::nullopt;
  std::vector<std::string> tables;
  for (const Relation& other : description.relations()) {
    if (other.arity != relation.arity || other.clauses.size() < 2) continue;
    if (other.keyword == Keyword::none && is_table(description, other)) {
      tables.push_back(description.terms().name(other.name));
    }
  }
  return most_similar(description.terms().name(relation.name), tables);
}

}  // namespace

bool is_table(const Description& description, const Relation& relation) {
  return std::ranges::all_of(relation.clauses, [&](std::uint32_t number) {
    return description.clauses()[number].body.empty();
  });
}

void find_unread(const Description& description, FindingSink& sink) {
  absl::flat_hash_set<Domains::Name> read;
  std::map<std::pair<SymbolId, std::uint32_t>, syntax::NodeIndex> made;
  for (const Clause& clause : description.clauses()) {
    const Keyword keyword = description.relation(clause.head.relation).keyword;
    if (keyword == Keyword::init || keyword == Keyword::next) {
      const PatternSymbol& fluent = clause.head.arguments.front();
      if (fluent.kind == PatternSymbol::Kind::variable) return;
      made.try_emplace({fluent.symbol(), fluent.arity}, fluent.node);
    }
    for (const Literal& literal : clause.body) {
      if (literal.is_comparison() ||
          description.relation(literal.atom.relation).keyword != Keyword::true_) {
        continue;
      }
      const PatternSymbol& fluent = literal.atom.arguments.front();
      if (fluent.kind == PatternSymbol::Kind::variable) return;
      read.insert({fluent.symbol(), fluent.arity});
    }
  }
  const Asked asked(description);
  for (const auto& [fluent, node] : made) {
    const Domains::Name name{fluent.first, fluent.second};
    if (asked.for_fluent(name)) continue;
    const std::string& symbol = description.terms().name(name.symbol);
    const std::string text = name.arity == 0 ? symbol : fmt::format("({} …)", symbol);
    sink.add(
        node, "unread-fluent",
        read.contains(name)
            ? fmt::format("{} is kept up, but no move, value, end or percept depends on it", text)
            : fmt::format("no condition ever looks at {}", text),
        "remove it, or use it; one that is kept for the drawing alone is allowed by a comment: "
        "; orchard: allow unread-fluent");
  }
}

void find_unused(const Description& description, FindingSink& sink) {
  std::vector<bool> used(description.relations().size(), false);
  for (const Clause& clause : description.clauses()) {
    for (const Literal& literal : clause.body) {
      const bool own = !literal.is_comparison() && literal.atom.relation == clause.head.relation;
      if (!literal.is_comparison() && !own) used[index_of(literal.atom.relation)] = true;
    }
  }
  for (std::size_t r = 0; r < used.size(); ++r) {
    const Relation& relation = description.relations()[r];
    if (used[r] || relation.keyword != Keyword::none || !relation.concluded) continue;
    const std::string& name = description.terms().name(relation.name);
    if (sink.is_explained(name)) continue;
    const auto meant = of_which_table(description, relation);
    if (!meant && may_be_order(description, relation)) continue;
    // A table that nobody asks for may stand there for the reader; a rule is meant for something.
    if (!meant && relation.clauses.size() > 1 && is_table(description, relation)) continue;
    sink.add(
        relation.first_use, "unused-relation",
        fmt::format("`{}` is concluded here, but no rule asks for it", name),
        meant ? Remedy::name_meant(name, *meant) : "use it in a condition, or remove it");
  }
}

}  // namespace orchard::rules
