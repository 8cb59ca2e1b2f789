#include "orchard/term.hpp"

#include <algorithm>
#include <functional>
#include <ostream>
#include <utility>

#include "syntax/names.hpp"
#include "syntax/reader.hpp"
#include "syntax/tree.hpp"

namespace orchard {

Result<Term> Term::parse(std::string_view text) {
  Diagnostics diagnostics;
  const syntax::Tree tree = syntax::read(syntax::Source("", std::string(text)), {}, diagnostics);
  if (diagnostics.has_errors()) return diagnostics;
  if (tree.forms().size() != 1) {
    return plain_error("not-a-term", "expected one term, such as (place 1 2) or wait");
  }
  return syntax::term_of(tree, tree.forms().front());
}

Term Term::constant(std::string_view name) {
  return from_symbols({{std::string(name), 0, 1}});
}

Term Term::function(std::string_view name, const std::vector<Term>& arguments) {
  std::vector<Symbol> symbols{{std::string(name), static_cast<std::uint32_t>(arguments.size()), 1}};
  for (const Term& argument : arguments) {
    const auto from = argument.symbols_->begin() + argument.first_;
    symbols.insert(symbols.end(), from, from + argument.symbol().size);
  }
  symbols.front().size = static_cast<std::uint32_t>(symbols.size());
  return from_symbols(std::move(symbols));
}

Term Term::from_symbols(std::vector<Symbol> symbols) {
  return {std::make_shared<const std::vector<Symbol>>(std::move(symbols)), 0};
}

std::optional<std::int64_t> Term::number() const {
  return arity() == 0 ? integer_value(name()) : std::nullopt;
}

std::vector<Term> Term::arguments() const {
  std::vector<Term> result;
  result.reserve(arity());
  std::uint32_t at = first_ + 1;
  for (std::size_t i = 0; i < arity(); ++i) {
    result.push_back(Term(symbols_, at));
    at += (*symbols_)[at].size;
  }
  return result;
}

std::vector<Term::Symbol> Term::symbols() const {
  const auto from = symbols_->begin() + first_;
  return {from, from + symbol().size};
}

bool Term::is_ground() const {
  const auto from = symbols_->begin() + first_;
  return std::none_of(from, from + symbol().size,
                      [](const Symbol& next) { return next.name.starts_with('?'); });
}

std::string Term::to_string() const {
  std::string text;
  std::vector<std::uint32_t> open;  // arguments still to come at each level
  for (std::uint32_t at = first_; at < first_ + symbol().size; ++at) {
    const Symbol& next = (*symbols_)[at];
    if (!open.empty()) {
      text += ' ';
      --open.back();
    }
    if (next.arity > 0) {
      text += '(';
      open.push_back(next.arity);
    }
    text += next.name;
    while (!open.empty() && open.back() == 0) {
      text += ')';
      open.pop_back();
    }
  }
  return text;
}

std::size_t Term::hash() const {
  std::size_t value = 0;
  for (std::uint32_t at = first_; at < first_ + symbol().size; ++at) {
    const Symbol& next = (*symbols_)[at];
    value = value * 0x9E3779B97F4A7C15ULL + std::hash<std::string>{}(next.name) + next.arity;
  }
  return value;
}

std::strong_ordering operator<=>(const Term& a, const Term& b) {
  const std::uint32_t common = std::min(a.symbol().size, b.symbol().size);
  for (std::uint32_t i = 0; i < common; ++i) {
    const Term::Symbol& left = (*a.symbols_)[a.first_ + i];
    const Term::Symbol& right = (*b.symbols_)[b.first_ + i];
    if (const auto order = compare_names(left.name, right.name); order != 0) return order;
    if (const auto order = left.arity <=> right.arity; order != 0) return order;
  }
  return a.symbol().size <=> b.symbol().size;
}

bool operator==(const Term& a, const Term& b) {
  return (a <=> b) == 0;
}

std::ostream& operator<<(std::ostream& stream, const Term& term) {
  return stream << term.to_string();
}

}  // namespace orchard
