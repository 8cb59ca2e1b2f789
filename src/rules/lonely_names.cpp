// Names that stand once in the whole description and are spelled nearly like another of their kind,
// which stands in several places: (edge wst p1) among (edge west p2).
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/similar.hpp"
#include "rules/finding_sink.hpp"
#include "rules/sorts.hpp"

namespace orchard::rules {

namespace {

struct UsesOfName {
  std::set<FindingSink::Written> written;
  syntax::NodeIndex node = syntax::no_node;
  std::set<std::uint32_t> sorts;
};

// Names with digits differ in a letter on purpose; short ones are near to many.
bool can_be_misspelled(const std::string& name) {
  constexpr std::size_t shortest = 3;
  return name.size() >= shortest && std::ranges::all_of(name, [](char c) {
           return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
         });
}

std::map<SymbolId, UsesOfName> uses_of_names(const Description& description) {
  const Sorts sorts(description);
  std::map<SymbolId, UsesOfName> uses;
  const auto see = [&](const Atom& atom) {
    // The arguments of one relation are taken together: an order speaks of one kind of thing.
    std::vector<std::uint32_t> here;
    std::vector<SymbolId> names;
    sorts.places().visit(description, atom, [&](PlaceId place, const PatternSymbol& symbol) {
      here.push_back(sorts.sort(place));
      if (symbol.kind != PatternSymbol::Kind::constant) return;
      UsesOfName& of_name = uses[symbol.symbol()];
      of_name.written.insert(FindingSink::written(description, symbol.node));
      if (of_name.node == syntax::no_node) of_name.node = symbol.node;
      names.push_back(symbol.symbol());
    });
    for (const SymbolId name : names) uses[name].sorts.insert(here.begin(), here.end());
  };
  for (const Clause& clause : description.clauses()) {
    see(clause.head);
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) {
        see(literal.atom);
        continue;
      }
      for (const PatternSymbol& symbol : literal.atom.arguments) {
        if (symbol.kind != PatternSymbol::Kind::constant) continue;
        uses[symbol.symbol()].written.insert(FindingSink::written(description, symbol.node));
      }
    }
  }
  return uses;
}

}  // namespace

void find_lonely_names(const Description& description, FindingSink& sink) {
  const std::map<SymbolId, UsesOfName> uses = uses_of_names(description);
  for (const auto& [symbol, once] : uses) {
    const std::string& name = description.terms().name(symbol);
    if (once.written.size() != 1 || !can_be_misspelled(name)) continue;
    std::vector<std::string> others;
    for (const auto& [other, often] : uses) {
      const std::string& text = description.terms().name(other);
      if (often.written.size() < 2 || !can_be_misspelled(text)) continue;
      const bool alike = std::ranges::any_of(
          often.sorts, [&](std::uint32_t sort) { return once.sorts.contains(sort); });
      if (alike && edit_distance(name, text) == 1) others.push_back(text);
    }
    if (const auto meant = most_similar(name, others)) {
      sink.add(once.node, "lonely-name", fmt::format("`{}` stands nowhere else", name),
               Remedy::name_meant(name, *meant));
    }
  }
}

}  // namespace orchard::rules
