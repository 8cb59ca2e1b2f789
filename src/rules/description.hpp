// A game description: what the forms of a file mean as relations and clauses.
//
// A *rule* is what the user wrote; it becomes one *clause* for each way its `or`s can be
// satisfied, so that a clause body is a plain list of literals. Rule and clause keep the place in
// the text. Immutable once built; any number of threads may read it.
//
// Source of the definitions: the published specification of the Game Description Language and
// its extension for incomplete information.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "rules/term_table.hpp"
#include "syntax/expand.hpp"
#include "syntax/tree.hpp"

namespace orchard::rules {

enum class RelationId : std::uint32_t {};
inline std::size_t index_of(RelationId id) {
  return static_cast<std::size_t>(id);
}

// The relations that the language gives a meaning.
enum class Keyword {
  none,  // a relation of the description's own
  role,
  init,
  true_,
  does,
  next,
  legal,
  goal,
  terminal,
  base,
  input,
  sees,
};

// One symbol of a term that may hold variables, in prefix order.
struct PatternSymbol {
  enum class Kind : std::uint8_t { constant, variable, function };
  Kind kind = Kind::constant;
  std::uint32_t value = 0;  // SymbolId of a name; number of a variable within its rule
  std::uint32_t arity = 0;
  std::uint32_t size = 1;  // symbols of the subterm
  syntax::NodeIndex node = syntax::no_node;

  SymbolId symbol() const { return SymbolId{value}; }
};
using Pattern = std::vector<PatternSymbol>;  // one term, or the arguments of an atom in a row

struct Atom {
  RelationId relation{};
  Pattern arguments;  // as many terms as the relation has arguments
  syntax::NodeIndex node = syntax::no_node;
};

struct Literal {
  enum class Kind : std::uint8_t {
    positive,
    negative,
    distinct,  // the two terms of `atom.arguments` differ
    equal,     // … are the same; written (not (distinct …))
  };
  Kind kind = Kind::positive;
  Atom atom;  // `relation` has no meaning for distinct and equal

  bool is_comparison() const { return kind == Kind::distinct || kind == Kind::equal; }
};

struct Clause {
  Atom head;
  std::vector<Literal> body;
  std::uint32_t rule = 0;
};

struct Rule {
  syntax::NodeIndex node = syntax::no_node;
  std::vector<std::string_view> variables;  // by number
};

struct Relation {
  SymbolId name{};
  std::uint32_t arity = 0;
  Keyword keyword = Keyword::none;
  syntax::NodeIndex first_use = syntax::no_node;
  bool concluded = false;              // it is the head of some rule, if only of one that fails
  std::vector<std::uint32_t> clauses;  // by number, with this relation in the head
};

class Description {
 public:
  // Builds and checks the description that a text stands for, with its directives expanded and
  // `sizes` in place of the numbers of #let. Errors and findings go to `diagnostics`, in the order
  // of the text; null if there was an error.
  static std::shared_ptr<const Description> build(syntax::Source source,
                                                  const syntax::Limits& limits,
                                                  Diagnostics& diagnostics,
                                                  const syntax::Sizes& sizes = {});

  // The rules of a description and further ones behind them, which may use what it says. Of slips,
  // only those in the further texts are told, and no missing parts.
  static std::shared_ptr<const Description> extend(const Description& description,
                                                   const std::vector<syntax::Source>& further,
                                                   const syntax::Limits& limits,
                                                   Diagnostics& diagnostics);
  // The same without the forms that `unwanted` says; of a text that has been found right.
  using FormTest = std::function<bool(const syntax::Tree& tree, syntax::NodeIndex form)>;
  static std::shared_ptr<const Description> extend_without(
      const Description& description, const std::vector<syntax::Source>& further,
      const syntax::Limits& limits, const FormTest& unwanted);

  const syntax::Tree& tree() const { return tree_; }
  TermTable& terms() const { return *terms_; }

  const std::vector<Relation>& relations() const { return relations_; }
  const Relation& relation(RelationId id) const { return relations_[index_of(id)]; }
  const std::vector<Clause>& clauses() const { return clauses_; }
  const std::vector<Rule>& rules() const { return rules_; }

  std::optional<RelationId> find(std::string_view name, std::uint32_t arity) const;
  std::optional<RelationId> find(Keyword keyword) const;

  const std::vector<TermId>& roles() const { return roles_; }  // in the order of their facts
  // The symbol of a keyword, whether or not the rules use it.
  SymbolId keyword_symbol(Keyword keyword) const;
  bool uses(Keyword keyword) const { return find(keyword).has_value(); }

  // The text of a clause head or literal, for messages.
  std::string text(const Atom& atom, std::uint32_t rule) const;
  Place place(syntax::NodeIndex node) const { return tree_.place(node); }

 private:
  friend class DescriptionBuilder;
  explicit Description(syntax::Tree tree)
      : tree_(std::move(tree)), terms_(std::make_unique<TermTable>()) {}

  syntax::Tree tree_;
  std::unique_ptr<TermTable> terms_;  // grows while games are played; synchronised by itself
  std::vector<Relation> relations_;
  std::vector<Clause> clauses_;
  std::vector<Rule> rules_;
  std::vector<TermId> roles_;
  absl::flat_hash_map<std::pair<SymbolId, std::uint32_t>, RelationId> by_name_;
};

// The arguments of an atom one by one: calls visit(first, end) on the symbols of each.
template <class Visit>
void for_each_argument(const Pattern& arguments, Visit&& visit) {
  for (std::size_t at = 0; at < arguments.size(); at += arguments[at].size) {
    visit(arguments.data() + at, arguments.data() + at + arguments[at].size);
  }
}

}  // namespace orchard::rules
