// From clauses with variables to ground clauses. Inner part of GroundProgram::make.
//
// First what never changes, component by component, exactly. Then everything else at once: atoms
// are taken up one by one, each joined with those before it through every clause that asks for it,
// so that a ground clause is made once, when the last of its atoms is taken up (semi-naive). The
// order of a join is chosen by the sizes of the tables and chosen anew as they grow.
//
// Rules for `next` come last: only when all else that follows from the atoms so far is known are
// they joined, and no clause is made for what can hold at ends alone. So a count that is written in
// nested terms stops where the game does, though nothing else bounds it.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "ground/end_atoms.hpp"
#include "ground/ground_program.hpp"

namespace orchard::ground {

class Instantiator {
 public:
  Instantiator(GroundProgram& program, const Limits& limits);
  std::optional<Diagnostic> run();  // none if it went well

 private:
  struct Step {
    std::uint32_t literal = 0;
    bool checks = false;  // all columns are bound: look it up
    std::uint32_t index = 0;
    std::vector<std::uint32_t> key;  // columns of the index
  };
  struct Plan {
    std::vector<Step> steps;
    std::size_t made_at = 0;  // rows there were
  };
  // One column of a literal. Nearly all are a variable or a constant.
  struct Column {
    enum class Kind : std::uint8_t { variable, constant, function };
    Kind kind{};
    std::uint32_t variable = 0;
    TermId constant{};
    std::uint32_t first = 0;  // where it begins in the pattern
  };
  using Columns = std::vector<Column>;
  struct ClauseFacts {
    const FlatClause* clause = nullptr;
    Columns head;
    std::vector<Columns> body;    // by literal
    std::vector<bool> is_static;  // by literal: what never changes
    std::vector<Plan> plans;      // by triggering literal; the last one for no trigger
    std::uint64_t instances = 0;
  };
  struct Trigger {
    std::uint32_t clause = 0;
    std::uint32_t literal = 0;
  };
  struct Frame {
    std::uint32_t rows = 0;  // all of the table, if there is no index
    std::uint32_t next = 0;  // candidate
    std::size_t trail = 0;
  };
  // In bodies under way: the place of an `Asked` among all, and no atom yet.
  static constexpr std::uint32_t is_asked = 0x80000000;
  // A row that some instance asks not to hold. Whether it ever can is known at the end.
  struct Asked {
    PredicateId predicate{};
    std::uint32_t row = 0;  // of what is asked of that predicate
  };
  struct Instance {  // derived, and stored once the join is over
    PredicateId predicate{};
    std::uint32_t clause = 0;  // of the program, if it is kept
    std::size_t cells = 0;     // first of the head
  };

  void run_static();
  void run_dynamic();
  void take_up(PredicateId predicate, std::uint32_t row);
  void take_up_for_next(PredicateId predicate, std::uint32_t row);
  bool only_ends(const FlatClause& clause) const;
  // Rules for `next`, and the parts that their bodies were split into.
  bool is_for_next(const Predicate& head) const;
  void fire(ClauseFacts& facts, std::size_t trigger, PredicateId predicate, std::uint32_t row);
  void join(ClauseFacts& facts, const Plan& plan, std::size_t trigger);
  void enter(const ClauseFacts& facts, const Plan& plan, std::size_t depth);
  bool advance(const ClauseFacts& facts, const Plan& plan, std::size_t depth, std::size_t trigger);
  bool may_use(const ClauseFacts& facts, std::uint32_t row, std::size_t literal,
               std::size_t trigger) const;
  class BoundVariables;
  double cost(const ClauseFacts& facts, std::uint32_t literal, const BoundVariables& bound) const;
  Step step_of(const ClauseFacts& facts, std::uint32_t literal, bool checks,
               const BoundVariables& bound);
  void make_plan(ClauseFacts& facts, std::size_t trigger, Plan& plan);
  Columns columns_of(const Pattern& pattern);
  void find_ways_to_ends();
  bool holds(const FlatLiteral& literal, const Columns& columns);
  bool match_row(const ClauseFacts& facts, std::size_t literal, std::span<const TermId> row);
  bool build_row(const FlatAtom& atom, const Columns& columns, bool add);
  TermId build_column(const FlatAtom& atom, const Column& column, bool add) {
    if (column.kind == Column::Kind::variable) return bindings_[column.variable];
    if (column.kind == Column::Kind::constant) return column.constant;
    return build(atom.columns, column.first, add);
  }
  bool match(const Pattern& pattern, std::size_t first, TermId term);
  TermId build(const Pattern& pattern, std::size_t first, bool add);  // no_term if it is none yet
  TermId constant(const PatternSymbol& symbol);
  void emit(ClauseFacts& facts);
  void emit_body(const ClauseFacts& facts);
  AtomId asked(PredicateId predicate);
  void store_instances();
  bool is_foreseen(const Predicate& predicate, std::span<const TermId> row) const;
  bool is_declared(const Predicate& predicate, std::span<const TermId> row) const;
  std::uint32_t add_row(PredicateId predicate, std::span<const TermId> row);
  void undo(std::size_t trail);
  std::uint64_t bytes() const;
  void look_at_limits();
  void fail(std::uint32_t clause, std::string message, std::string_view remedy);
  void finish_clauses();

  GroundProgram& program_;
  const Limits& limits_;
  const Schema& schema_;
  rules::TermTable& terms_;
  std::vector<ClauseFacts> facts_;
  std::vector<std::vector<Trigger>> triggers_;      // by predicate
  std::vector<std::vector<std::uint32_t>> stamps_;  // by predicate and row: when it was taken up
  std::vector<std::pair<PredicateId, std::uint32_t>> queue_;
  std::size_t taken_ = 0;
  std::size_t taken_for_next_ = 0;  // of the same queue
  std::uint32_t now_ = 0;           // the stamp of the row being taken up
  bool for_next_ = false;           // rows are taken up for rules for `next`
  // The same stamps for rules for `next`.
  std::vector<std::vector<std::uint32_t>> stamps_for_next_;
  EndAtoms ends_;
  std::vector<bool> may_give_end_;  // by predicate: through single conditions
  bool dynamic_ = false;            // static instances leave no ground clauses
  std::uint32_t component_ = 0;

  std::vector<TermId> bindings_;
  std::vector<std::uint32_t> trail_;
  std::vector<Frame> frames_;
  std::vector<std::uint32_t> chosen_;  // by literal: the row it stands for
  std::vector<TermId> row_;            // being built
  std::vector<TermId> stack_;
  std::vector<TermId> arguments_;
  absl::flat_hash_map<std::uint32_t, TermId> constants_;  // by symbol
  std::vector<Instance> pending_;
  std::vector<TermId> pending_cells_;
  // What negative conditions ask for: by predicate the rows, and by row its place among all.
  std::vector<FactStore> asked_;
  std::vector<std::vector<std::uint32_t>> place_of_asked_;
  std::vector<Asked> all_asked_;
  std::uint32_t deepest_ = 0;  // of the terms there are, at least
  std::uint64_t join_steps_ = 0;
  std::uint64_t deep_clauses_ = 0;
  std::optional<Diagnostic> fault_;
};

}  // namespace orchard::ground
