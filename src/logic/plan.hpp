// A clause as a sequence of steps over tables: what the evaluator runs.
//
// Built once by the Program, immutable. The order of the steps is chosen when the plan is made
// (`planner.hpp`); the runner runs them as nested loops without knowing why they stand so.
#pragma once

#include <cstdint>
#include <vector>

#include "rules/term_table.hpp"

namespace orchard::logic {

using rules::SymbolId;
using rules::TermId;

enum class TableId : std::uint32_t {};
inline std::size_t index_of(TableId id) {
  return static_cast<std::size_t>(id);
}

constexpr TableId no_table{0xFFFFFFFF};

// One symbol of a term to build or to take apart, in prefix order.
struct PlanSymbol {
  enum class Kind : std::uint8_t {
    constant,  // the term `constant`
    variable,  // a variable that has its value by now
    binding,   // a variable that gets its value here
    function,  // `symbol` with `arity` arguments, which follow
  };
  Kind kind = Kind::constant;
  std::uint32_t arity = 0;
  std::uint32_t variable = 0;
  TermId constant{};
  SymbolId symbol{};
};

// What a column of a row is compared with, or bound to: symbols first … end-1 of the plan's pool.
// Nearly all are one symbol, whose kind and value are kept here too.
struct Argument {
  std::uint32_t column = 0;
  std::uint32_t first = 0;
  std::uint32_t end = 0;
  PlanSymbol::Kind kind = PlanSymbol::Kind::constant;
  std::uint32_t variable = 0;
  TermId constant{};
};

constexpr std::uint32_t nothing = 0xFFFFFFFF;

struct Step {
  enum class Kind : std::uint8_t {
    scan,      // for every row of the table with the key
    present,   // goes on, once, if such a row exists; the key is the whole row
    absent,    // goes on if no such row exists; the key is the whole row
    distinct,  // goes on if the two keys differ
    equal,     // … are the same
  };
  Kind kind = Kind::scan;
  bool only_new = false;  // scan: only the rows that the last round added
  bool once = false;      // scan: nobody asks which row it was, so that the first one will do
  TableId table{};
  std::uint32_t index = 0;        // scan: the table's index on the key columns
  std::vector<Argument> key;      // values known before the step
  std::uint32_t key_at = 0;       // where the runner keeps them, among the plan's key cells
  std::vector<Argument> matched;  // scan: the other columns, bound or taken apart row by row

  // The component that has to answer before the table is read, if it is another one than that of
  // the plan and changes during play. `asked_by`: where in the key the values stand for which it
  // is asked; empty if it is to work out all its rows.
  std::uint32_t component = nothing;
  std::vector<std::uint32_t> asked_by;

  // Where a step finds no row at all: the last step before it that chooses a value it looks for.
  // Rows of the steps between would end here just so. `nothing`: the clause gives no more rows.
  std::uint32_t back = nothing;
};

struct Plan {
  std::vector<PlanSymbol> symbols;
  std::vector<Step> steps;
  TableId head{};
  std::vector<Argument> head_arguments;
  std::uint32_t variables = 0;
  std::uint32_t key_cells = 0;
  std::uint32_t clause = 0;     // of the description, for messages and proofs
  std::uint32_t component = 0;  // that of the clause's head
  // The last step that chooses a value of the head: what later steps choose makes no other row.
  std::uint32_t last_choice = nothing;
};

}  // namespace orchard::logic
