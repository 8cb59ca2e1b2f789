// A description made ready for evaluation: tables, plans, and the order to run them in.
//
// What never changes during play is computed here, once, and shared; what depends on the position
// or on the moves belongs to an Evaluator. `true` and `does` facts are also kept split by the
// name of the fluent or move (the *parts*), so that a condition such as (true (cell ?x ?y bare))
// is looked up by its inner arguments.
//
// A relation whose users know some of its columns whenever they look at it is *asked*: it works
// out only the rows for the values in question, each once a position, instead of all its rows
// (for relations that depend on themselves this is the published transformation by "magic sets",
// within the component only, so that negation needs no care). Columns that some user does not
// know are not asked for.
//
// Immutable after construction, safe to share between threads.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <memory>
#include <span>
#include <vector>

#include "logic/plan.hpp"
#include "logic/table.hpp"
#include "orchard/result.hpp"
#include "rules/dependency.hpp"
#include "rules/description.hpp"

namespace orchard::logic {

using rules::Keyword;
using rules::Phase;
using rules::RelationId;

// Bounds on one evaluation; what runs into one is refused with a diagnostic.
struct Limits {
  std::uint64_t rows = 5'000'000;  // derived instances in one position
  std::uint64_t join_steps =
      2'000'000'000;  // rows looked at or made, and plans run, in one position
  std::uint32_t term_depth = 64;
  std::uint32_t term_symbols = 100'000;
};

class Program {
 public:
  enum class Answering : std::uint8_t {
    as_counted,  // whatever had less work on a few random plies
    as_a_whole,  // every relation works out all its rows
    when_asked,  // every relation that can be asked is
  };
  // Computes everything constant. Fails with `too-large` if a limit is met on the way. The answers
  // are the same whatever `answering`.
  static Result<std::shared_ptr<const Program>> make(
      std::shared_ptr<const rules::Description> description, const Limits& limits,
      Answering answering = Answering::as_counted);

  // What is computed together: the relations of one component of the dependency graph.
  struct Component {
    Phase phase = Phase::constant;
    std::vector<TableId> tables;
    std::vector<std::pair<TableId, std::vector<TermId>>> facts;  // rows without conditions
    // To work out all rows.
    std::vector<Plan> plans;      // for clauses that do not use the component itself
    std::vector<Plan> recursive;  // one for each condition on the component itself
    // To work out the rows for values that are asked for; nothing where it is not asked.
    std::vector<TableId> keys;  // tables of the values asked for, one for each of `tables`
    std::vector<Plan> asked;    // see some new row each, of values or of the component
    bool asks_itself = false;   // goes on until nothing is new
  };

  // How a relation is asked: the table is looked up by these columns (ascending), and the values
  // that were asked for are kept in `keys`. No columns: it is not asked.
  struct Asked {
    std::vector<std::uint32_t> columns;
    TableId keys{};
  };

  struct TableFacts {
    std::uint32_t arity = 0;
    Phase phase = Phase::constant;  // of constants that play never asks for: Phase::position
    bool input = false;             // a part of `true` or `does`
  };

  const rules::Description& description() const { return *description_; }
  const std::shared_ptr<const rules::Description>& shared_description() const {
    return description_;
  }
  const rules::Dependency& dependency() const { return dependency_; }
  rules::TermTable& terms() const { return description_->terms(); }
  const Limits& limits() const { return limits_; }

  std::span<const Component> components() const { return components_; }
  std::span<const TableFacts> tables() const { return tables_; }
  const Asked& asked(TableId relation) const { return asked_[index_of(relation)]; }
  // False where relations rest on one another so deeply that questions would nest too far; then
  // whoever wants a relation works out first what it needs, in computing order.
  bool answers_when_asked() const { return answers_when_asked_; }
  // The rows of a constant table; for another one an empty table with all its indexes, to be
  // copied by an evaluator.
  const Table& prepared_table(TableId id) const { return *prepared_[index_of(id)]; }

  TableId table(RelationId relation) const { return TableId{static_cast<std::uint32_t>(relation)}; }
  // The components that a relation needs, in computing order, constants left out; O(program).
  std::vector<std::uint32_t> needs(RelationId relation) const;

  // The part table of `true` (or `does`) for a name and number of arguments, if any rule uses it.
  struct PartKey {
    Keyword keyword;
    SymbolId symbol;
    std::uint32_t arity;
    friend bool operator==(const PartKey&, const PartKey&) = default;
    template <class Hash>
    friend Hash AbslHashValue(Hash hash, const PartKey& key) {
      return Hash::combine(std::move(hash), key.keyword, key.symbol, key.arity);
    }
  };
  std::optional<TableId> part(const PartKey& key) const {
    const auto found = parts_.find(key);
    return found == parts_.end() ? std::nullopt : std::optional(found->second);
  }

  const std::vector<TermId>& initial() const { return initial_; }  // ascending ids

  // The order of `Term` on ids, faster than asking the term table.
  std::strong_ordering compare(TermId a, TermId b) const;

 private:
  friend class Planner;
  friend class ProgramBuilder;
  // The component that works a table out during play, if there is one.
  std::optional<std::uint32_t> component_to_ask(TableId table) const;
  Program(std::shared_ptr<const rules::Description> description, const Limits& limits)
      : description_(std::move(description)), dependency_(*description_), limits_(limits) {}

  std::shared_ptr<const rules::Description> description_;
  rules::Dependency dependency_;
  Limits limits_;
  std::vector<TableFacts> tables_;
  std::vector<std::unique_ptr<Table>> prepared_;
  std::vector<Component> components_;
  std::vector<Asked> asked_;  // by relation
  std::vector<double> rows_;  // what was counted of tables in some positions, if it was
  bool answers_when_asked_ = true;
  absl::flat_hash_map<PartKey, TableId> parts_;
  std::vector<TermId> initial_;
  std::vector<std::uint32_t> symbol_rank_;
};

}  // namespace orchard::logic
