// Chooses the order in which a clause's conditions are tried.
//
// Greedy: tests whose variables have values go first, then, again and again, the condition that
// is expected to give the fewest rows for the values known by then. Constant tables are counted;
// others are guessed. O(conditions² × arguments) a clause, and once for each set of columns of a
// constant table its rows.
#pragma once

#include <map>
#include <utility>
#include <vector>

#include "logic/program.hpp"

namespace orchard::logic {

class Planner {
 public:
  explicit Planner(Program& program) : program_(program) {}

  static constexpr std::size_t no_literal = static_cast<std::size_t>(-1);

  // The plan of a clause; `newest` is the condition that is to see only new rows, if any.
  Plan plan(std::uint32_t clause, std::size_t newest = no_literal);

  // The table that a body atom looks at: a part table where the atom names the fluent or move.
  // Where it is a part, `pattern` becomes the arguments of the part.
  TableId table_of(const rules::Atom& atom, rules::Pattern& pattern);

 private:
  struct Condition {
    const rules::Literal* literal;
    TableId table{};
    rules::Pattern pattern;
    bool placed = false;
  };

  void place(Condition& condition, bool only_new);
  void place_positives_in_order(std::vector<Condition>& conditions);
  void place_ready_tests(std::vector<Condition>& conditions);
  double expected_rows(const Condition& condition);
  double rows_for_a_key(TableId table, const std::vector<std::uint32_t>& columns);
  bool is_known(const rules::PatternSymbol* first, const rules::PatternSymbol* end) const;
  Argument argument(std::uint32_t column, const rules::PatternSymbol* first,
                    const rules::PatternSymbol* end);
  std::vector<Argument> all_arguments(const rules::Pattern& pattern);

  Program& program_;
  Plan plan_;
  std::vector<bool> known_;  // variables that have a value by now
  // How many different keys a constant table has, by table and columns.
  std::map<std::pair<std::size_t, std::vector<std::uint32_t>>, std::size_t> keys_;
};

}  // namespace orchard::logic
