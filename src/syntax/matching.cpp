#include "syntax/matching.hpp"

#include "syntax/tree.hpp"

namespace orchard::syntax {

bool matches(const Term& pattern, const Term& term, Bindings& bindings) {
  std::vector<std::pair<Term, Term>> open{{pattern, term}};
  while (!open.empty()) {
    const auto [form, part] = open.back();
    open.pop_back();
    if (form.is_variable()) {
      const auto [known, is_new] = bindings.try_emplace(form.name(), part);
      if (!is_new && known->second != part) return false;
      continue;
    }
    if (form.name() != part.name() || form.arity() != part.arity()) return false;
    const std::vector<Term> forms = form.arguments();
    const std::vector<Term> parts = part.arguments();
    for (std::size_t a = 0; a < forms.size(); ++a) open.emplace_back(forms[a], parts[a]);
  }
  return true;
}

Term filled_in(const Term& pattern, const Bindings& bindings) {
  std::vector<Term::Symbol> symbols;
  for (const Term::Symbol& symbol : pattern.symbols()) {
    const auto known = bindings.find(symbol.name);
    if (known == bindings.end()) {
      symbols.push_back(symbol);
    } else {
      const std::vector<Term::Symbol> inner = known->second.symbols();
      symbols.insert(symbols.end(), inner.begin(), inner.end());
    }
  }
  assign_sizes(symbols);
  return Term::from_symbols(std::move(symbols));
}

}  // namespace orchard::syntax
