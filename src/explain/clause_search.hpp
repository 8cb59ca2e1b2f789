// All ways in which a clause can give an atom, and the way that comes nearest.
//
// Conditions are tried in an order chosen while searching: tests whose variables have values
// first, then the condition with the fewest rows. A stack of choices takes the place of
// recursion, since the number of conditions is the user's to choose.
#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "explain/facts.hpp"
#include "orchard/term.hpp"

namespace orchard::explain {

using Bindings = std::vector<TermId>;  // by variable of the clause; no_term if it has no value

// A term pattern as a value, with the values of its variables put in.
Term instance(const rules::Description& description, const rules::PatternSymbol* first,
              const rules::PatternSymbol* end, const Bindings& bindings, std::uint32_t rule);
// An atom, or a comparison, of a clause.
Term instance(const rules::Description& description, const rules::Literal& literal,
              const Bindings& bindings, std::uint32_t rule);

class ClauseSearch {
 public:
  ClauseSearch(Facts& facts, std::uint32_t clause);

  const rules::Clause& clause() const { return clause_; }

  // Gives the head's variables the values of an atom's arguments; no_term fits anything. False if
  // the head cannot be that atom.
  bool begin(std::span<const TermId> head);

  // Every instance whose conditions all hold, until `visit` says false or `steps` runs out.
  void all(std::size_t& steps, const std::function<bool(const Bindings&)>& visit);

  // What a missing condition counts that no play could ever bring about: comparisons, and relations
  // that never change.
  static constexpr std::size_t never = 1000;

  // The instance with the fewest conditions missing, then the fewest variables without a value;
  // the best found within so many steps.
  struct Nearest {
    Bindings bindings;
    std::vector<bool> holds;  // by condition
    std::size_t missing = 0;
  };
  Nearest nearest(std::size_t steps);

  // The arguments of a condition, no_term where a value is missing or no such term exists.
  std::vector<TermId> arguments(const rules::Literal& literal, const Bindings& bindings) const;
  // Whether a condition holds; none if a variable of it has no value.
  std::optional<bool> holds(const rules::Literal& literal, const Bindings& bindings);

 private:
  struct Choice {
    std::size_t condition = 0;
    std::span<const std::uint32_t> rows;  // of a positive condition
    std::size_t next = 0;                 // the row to try, or rows.size() for leaving it missing
    std::size_t trail = 0;                // variables bound before
    bool missed = false;
  };

  TermId value(const rules::PatternSymbol* first, const rules::PatternSymbol* end,
               const Bindings& bindings) const;
  bool is_ground(const rules::Pattern& pattern, const Bindings& bindings) const;
  bool match(const rules::PatternSymbol* first, const rules::PatternSymbol* end, TermId id);
  bool match_row(const rules::Literal& literal, const TermId* row);
  void undo(std::size_t trail);
  std::size_t weight(const rules::Literal& literal) const;
  bool run(std::size_t& steps, std::size_t most_missing,
           const std::function<std::size_t(std::size_t missing)>& visit);
  std::optional<std::size_t> pick(std::span<const std::uint32_t>& rows);

  Facts& facts_;
  const rules::Description& description_;
  const rules::Clause& clause_;
  Bindings bindings_;
  std::vector<std::uint32_t> trail_;
  std::vector<bool> done_;    // conditions chosen
  std::vector<bool> missed_;  // … and left missing
};

}  // namespace orchard::explain
