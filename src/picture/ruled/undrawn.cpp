#include "picture/ruled/undrawn.hpp"

#include <fmt/core.h>

#include <set>
#include <utility>
#include <vector>

namespace orchard::picture {
namespace {

using rules::Atom;
using rules::Clause;
using rules::Description;
using rules::Keyword;
using rules::PatternSymbol;
using rules::RelationId;

using Name = std::pair<rules::SymbolId, std::uint32_t>;

class Finder {
 public:
  explicit Finder(const Description& all) : all_(all) {}

  void follow(const Clause& clause) {
    for (const rules::Literal& literal : clause.body) {
      if (literal.is_comparison()) continue;
      if (all_.relation(literal.atom.relation).keyword == Keyword::true_) {
        read(literal.atom);
      } else if (seen_.insert(literal.atom.relation).second) {
        open_.push_back(literal.atom.relation);
      }
    }
  }
  void run() {
    while (!open_.empty()) {
      const RelationId relation = open_.back();
      open_.pop_back();
      for (const std::uint32_t clause : all_.relation(relation).clauses) {
        follow(all_.clauses()[clause]);
      }
    }
  }
  bool draws(const PatternSymbol& fluent) const {
    return all_drawn_ || drawn_.contains({fluent.symbol(), fluent.arity});
  }

 private:
  void read(const Atom& atom) {
    const PatternSymbol& fluent = atom.arguments.front();
    if (fluent.kind == PatternSymbol::Kind::variable) {
      all_drawn_ = true;
    } else {
      drawn_.insert({fluent.symbol(), fluent.arity});
    }
  }

  const Description& all_;
  std::set<RelationId> seen_;
  std::vector<RelationId> open_;
  std::set<Name> drawn_;
  bool all_drawn_ = false;
};

}  // namespace

Diagnostics undrawn_fluents(const Description& all, std::size_t first_clause) {
  Finder finder(all);
  const auto draw = all.find("draw", 1);
  for (std::size_t c = first_clause; c < all.clauses().size(); ++c) {
    const Clause& clause = all.clauses()[c];
    if (clause.head.relation != draw) continue;
    const PatternSymbol& fact = clause.head.arguments.front();
    const bool named = fact.kind != PatternSymbol::Kind::variable;
    const std::string name = named ? all.terms().name(fact.symbol()) : std::string();
    if (name != "choice" && name != "visible") finder.follow(clause);
  }
  finder.run();
  Diagnostics result;
  std::set<Name> told;
  for (std::size_t c = 0; c < first_clause; ++c) {
    const Clause& clause = all.clauses()[c];
    const Keyword keyword = all.relation(clause.head.relation).keyword;
    if (keyword != Keyword::init && keyword != Keyword::next) continue;
    const PatternSymbol& fluent = clause.head.arguments.front();
    if (fluent.kind == PatternSymbol::Kind::variable || finder.draws(fluent)) continue;
    if (!told.insert({fluent.symbol(), fluent.arity}).second) continue;
    Diagnostic hint;
    hint.code = "undrawn-fluent";
    hint.severity = Severity::hint;
    hint.message =
        fmt::format("the drawing shows nothing of `{}`", all.terms().name(fluent.symbol()));
    hint.remedy =
        "draw it, as a counter or a caption if it has no place; or leave it, if nobody needs to "
        "see it";
    hint.place = all.place(all.rules()[clause.rule].node);
    result.add(std::move(hint));
  }
  return result;
}

}  // namespace orchard::picture
