// The names of a text where they stand: what each is, and where it is made.
//
// Made from the text as it is written, directives unexpanded, so that every place is one that can
// be edited. A text that does not read gives the names of what could be read. Immutable. O(text).
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "editing/grammar.hpp"
#include "syntax/tree.hpp"

namespace orchard::editing {

// What a name is where it stands.
enum class Sort {
  keyword,    // of the language, or a word that builds rules
  directive,  // #let
  relation,
  fluent,  // what is told by true, init, next, base
  move,    // what is told by legal, does, input
  function,
  constant,
  variable,
  word,  // of a file of cases or claims: case, expect, never
  text,  // in quotes
};

struct Name {
  std::uint32_t begin = 0;  // bytes of the text
  std::uint32_t end = 0;
  Sort sort = Sort::constant;
  std::string name;  // as the language reads it: in lower case, variables with their question mark
  std::uint32_t arity = 0;
  bool makes = false;      // where it is concluded, or gets its value
  std::uint32_t form = 0;  // number of the form at the top that it stands in
  // Of an argument: whose it is, and the how-manieth, from 1; 0 if it is none.
  std::uint32_t owner = no_owner;
  std::uint32_t argument = 0;

  static constexpr std::uint32_t no_owner = 0xFFFFFFFF;  // else a number in `all`
  bool is_term() const {
    return sort == Sort::fluent || sort == Sort::move || sort == Sort::function ||
           sort == Sort::constant;
  }
};

// Whether two names in one text mean the same thing: a function is the same in fluents and moves, a
// variable belongs to its form.
bool same_thing(const Name& a, const Name& b);

class Names {
 public:
  // `known`: of the rules that a file of cases, claims or positions speaks of; null for rules.
  explicit Names(syntax::Source source, const Names* known = nullptr);

  const syntax::Source& source() const { return tree_.source(); }
  Paper paper() const { return paper_; }
  bool is_infix() const { return infix_; }
  // In the order of the text.
  const std::vector<Name>& all() const { return names_; }
  // The name at a byte, or just before it.
  const Name* at(std::uint32_t offset) const;
  // From its first byte to the one behind its last.
  struct Stretch {
    std::uint32_t begin = 0;
    std::uint32_t end = 0;
  };
  Stretch form(std::uint32_t number) const;
  std::size_t forms() const { return tree_.forms().size(); }
  // The comment that stands right above a form, without its marks; empty if there is none.
  std::string comment_above(std::uint32_t form) const;
  // How a term or an atom of that name is known: with so many arguments.
  std::optional<Sort> sort_of(std::string_view name, std::uint32_t arity) const;
  const syntax::Tree& tree() const { return tree_; }
  // What does not read.
  const Diagnostics& faults() const { return faults_; }

 private:
  friend class NameFinder;
  Diagnostics faults_;
  Paper paper_;
  bool infix_ = false;
  syntax::Tree tree_;
  std::vector<Name> names_;
  std::map<std::pair<std::string, std::uint32_t>, Sort> sorts_;
};

}  // namespace orchard::editing
