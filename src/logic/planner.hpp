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
  // Stands for the condition that the values of the head are asked for.
  static constexpr std::size_t head_is_asked = static_cast<std::size_t>(-2);

  struct Request {
    std::uint32_t clause = 0;
    std::size_t newest = no_literal;  // the condition that is to see only new rows, if any
    // The columns of the head whose values are asked for: only rows with such values are made.
    // Null: all rows.
    const std::vector<std::uint32_t>* asked = nullptr;
    TableId keys{};  // where those values stand
    // The plan puts a question instead of answering one: what the clause will ask this condition
    // for, once those of `before` hold.
    std::size_t question = no_literal;
    const std::vector<std::size_t>* before = nullptr;
  };
  Plan plan(const Request& request);
  // While drafting, plans show the order of their conditions only: no index is made for them.
  void set_drafting(bool drafting) { drafting_ = drafting; }

  // Of the last plan: its conditions in order, and what each that belongs to a relation knew.
  struct Placed {
    std::size_t literal = no_literal;
    TableId table{};
    std::vector<std::uint32_t> known;  // columns
    bool newest = false;
  };
  const std::vector<Placed>& placed() const { return placed_; }

  // The table that a body atom looks at: a part table where the atom names the fluent or move.
  // Where it is a part, `pattern` becomes the arguments of the part.
  TableId table_of(const rules::Atom& atom, rules::Pattern& pattern);

 private:
  struct Condition {
    std::size_t literal = no_literal;
    rules::Literal::Kind kind = rules::Literal::Kind::positive;
    TableId table{};
    rules::Pattern pattern;
    bool placed = false;
  };

  std::vector<Condition> conditions_of(const Request& request);
  void place(Condition& condition, bool only_new);
  void place_positives_in_order(std::vector<Condition>& conditions);
  void place_ready_tests(std::vector<Condition>& conditions);
  void place_scan(Step& step, const Condition& condition,
                  const std::vector<std::uint32_t>& key_columns);
  void ask_before(Step& step, const std::vector<std::uint32_t>& known,
                  std::vector<std::uint32_t>& key_columns);
  std::vector<std::uint32_t> known_columns(const rules::Pattern& pattern) const;
  double expected_rows(const Condition& condition);
  double rows_for_a_key(TableId table, const std::vector<std::uint32_t>& columns);
  bool is_known(const rules::PatternSymbol* first, const rules::PatternSymbol* end) const;
  Argument argument(std::uint32_t column, const rules::PatternSymbol* first,
                    const rules::PatternSymbol* end);
  std::vector<Argument> arguments(const rules::Pattern& pattern,
                                  const std::vector<std::uint32_t>* columns);
  void find_ways_back();

  Program& program_;
  Plan plan_;
  std::vector<bool> known_;  // variables that have a value by now
  std::vector<Placed> placed_;
  bool drafting_ = false;
  // How many different keys a constant table has, by table and columns.
  std::map<std::pair<std::size_t, std::vector<std::uint32_t>>, std::size_t> keys_;
};

}  // namespace orchard::logic
