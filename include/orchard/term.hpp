// A term of the language as a value: a constant `apple`, a function term `(place 1 2 apple)`, or
// a variable `?x`.
//
// Prints canonically: lower case, single spaces. Terms are ordered: numbers before other names
// and by value, names by their bytes, then by the number of arguments, then by the arguments
// from the left. Copying is cheap (the text is shared); values may be shared between threads.
// Depth costs nothing but memory: no operation recurses.
#pragma once

#include <compare>
#include <cstdint>
#include <iosfwd>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/result.hpp"

namespace orchard {

// A term of the language; a value.
class Term {
 public:
  // One symbol of a term in prefix order. `size` counts the symbols of the subterm it begins.
  struct Symbol {
    // Of a constant, function or variable.
    std::string name;
    // The number of arguments that follow.
    std::uint32_t arity = 0;
    // The number of symbols of the subterm, this one included.
    std::uint32_t size = 1;
  };

  // Reads one term; upper case is folded. Fails with a diagnostic on anything but one term.
  static Result<Term> parse(std::string_view text);

  // A constant or variable. `name` is one symbol of the language, in lower case.
  static Term constant(std::string_view name);
  // Makes a function term with its arguments.
  static Term function(std::string_view name, const std::vector<Term>& arguments);
  // From symbols in prefix order with right arities and sizes.
  static Term from_symbols(std::vector<Symbol> symbols);

  // Of the constant, variable or function.
  const std::string& name() const { return symbol().name; }
  // The number of arguments; 0 for constants and variables.
  std::size_t arity() const { return symbol().arity; }
  // True if the term is a variable.
  bool is_variable() const { return name().starts_with('?'); }
  // True if the term is a constant.
  bool is_constant() const { return arity() == 0 && !is_variable(); }
  // The value of a constant that is a decimal integer of up to 18 digits.
  std::optional<std::int64_t> number() const;

  // The arguments of a function term; O(arity).
  std::vector<Term> arguments() const;
  // All symbols of the term, in prefix order.
  std::vector<Symbol> symbols() const;
  // True if the term contains no variable.
  bool is_ground() const;

  // The term in prefix syntax, such as "(place 1 2)".
  std::string to_string() const;
  // A hash that is stable within one process only.
  std::size_t hash() const;

  // True if both terms are the same.
  friend bool operator==(const Term& a, const Term& b);
  // Orders terms by their names and numbers, symbol by symbol.
  friend std::strong_ordering operator<=>(const Term& a, const Term& b);
  // Writes the term in prefix syntax.
  friend std::ostream& operator<<(std::ostream& stream, const Term& term);

 private:
  Term(std::shared_ptr<const std::vector<Symbol>> symbols, std::uint32_t first)
      : symbols_(std::move(symbols)), first_(first) {}
  const Symbol& symbol() const { return (*symbols_)[first_]; }

  std::shared_ptr<const std::vector<Symbol>> symbols_;  // of this term or of one around it
  std::uint32_t first_ = 0;
};

// The order of names described above. An integer is an optional '-' and decimal digits.
std::strong_ordering compare_names(std::string_view a, std::string_view b);

}  // namespace orchard

template <>
struct std::hash<orchard::Term> {
  // Calls the member function hash().
  std::size_t operator()(const orchard::Term& term) const { return term.hash(); }
};
