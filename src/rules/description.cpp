#include "rules/description.hpp"

#include <algorithm>

#include "rules/builder.hpp"
#include "rules/dependency.hpp"
#include "rules/findings.hpp"
#include "rules/keywords.hpp"
#include "rules/well_formed.hpp"

namespace orchard::rules {

std::shared_ptr<const Description> Description::build(syntax::Source source,
                                                      const syntax::Limits& limits,
                                                      Diagnostics& diagnostics,
                                                      const syntax::Sizes& sizes) {
  Diagnostics found;
  syntax::Tree tree = syntax::read_description(std::move(source), limits, sizes, found);
  const auto result = DescriptionBuilder(std::move(tree), found).run();
  Diagnostics other;
  if (is_other_text(*result, other)) {
    diagnostics.append(other);
    return nullptr;
  }
  const Dependency dependency(*result);
  check_restrictions(*result, dependency, found);
  // What is missing can be told only if everything was understood.
  if (!found.has_errors()) {
    find_missing(*result, found);
    find_slips(*result, found);
  }
  found.sort_by_place();
  diagnostics.append(found);
  return found.has_errors() ? nullptr : result;
}

std::shared_ptr<const Description> Description::extend(const Description& description,
                                                       const std::vector<syntax::Source>& further,
                                                       const syntax::Limits& limits,
                                                       Diagnostics& diagnostics) {
  Diagnostics found;
  syntax::Tree tree = syntax::read_further(description.tree(), further, limits, found);
  const auto result = DescriptionBuilder(std::move(tree), found).run();
  check_restrictions(*result, Dependency(*result), found);
  Diagnostics slips;
  if (!found.has_errors()) find_slips(*result, slips);
  for (const Diagnostic& slip : slips) {
    const bool here = std::ranges::any_of(
        further, [&](const syntax::Source& source) { return source.name() == slip.place.file; });
    if (here) found.add(slip);
  }
  found.sort_by_place();
  diagnostics.append(found);
  return found.has_errors() ? nullptr : result;
}

std::shared_ptr<const Description> Description::extend_without(
    const Description& description, const std::vector<syntax::Source>& further,
    const syntax::Limits& limits, const FormTest& unwanted) {
  Diagnostics ignored;
  syntax::Tree tree = syntax::read_further(description.tree(), further, limits, ignored);
  tree.leave_out(unwanted);
  return DescriptionBuilder(std::move(tree), ignored).run();
}

std::optional<RelationId> Description::find(std::string_view name, std::uint32_t arity) const {
  const auto symbol = terms_->find_symbol(name);
  if (!symbol) return std::nullopt;
  const auto known = by_name_.find({*symbol, arity});
  return known == by_name_.end() ? std::nullopt : std::optional(known->second);
}

std::optional<RelationId> Description::find(Keyword keyword) const {
  for (const KeywordFacts& facts : keyword_table()) {
    if (facts.keyword == keyword) return find(facts.name, facts.arity);
  }
  return std::nullopt;
}

SymbolId Description::keyword_symbol(Keyword keyword) const {
  return terms_->add_symbol(name_of(keyword));
}

std::string Description::text(const Atom& atom, std::uint32_t rule) const {
  std::vector<Term::Symbol> symbols{
      {terms_->name(relation(atom.relation).name), relation(atom.relation).arity, 1}};
  for (const PatternSymbol& next : atom.arguments) {
    const bool variable = next.kind == PatternSymbol::Kind::variable;
    symbols.push_back(
        {variable ? std::string(rules_[rule].variables[next.value]) : terms_->name(next.symbol()),
         next.arity, 1});
  }
  syntax::assign_sizes(symbols);
  return Term::from_symbols(std::move(symbols)).to_string();
}

}  // namespace orchard::rules
