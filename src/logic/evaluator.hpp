// The reference evaluator: answers any question on a position straight from the clauses.
//
// What a question needs is worked out once a position, component by component, each to its least
// fixpoint, and only for the values that are asked for (`program.hpp`); negation looks at what is
// complete by then. This is the standard model of the stratified program, as the language defines
// it. It is the judge of every faster engine; a brute-force evaluator judges it in the tests.
//
// An evaluator has one position and at most one joint move at a time. It belongs to one thread;
// the Program is shared. Setting a position costs O(its size); a question costs what the rules
// make it cost. Any question may throw LimitExceeded; then set a position before going on.
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "logic/program.hpp"
#include "logic/runner.hpp"

namespace orchard::logic {

class Evaluator {
 public:
  explicit Evaluator(std::shared_ptr<const Program> program);
  Evaluator(Evaluator&&) = delete;

  const Program& program() const { return *program_; }

  // Fluents without repetition, in any order.
  void set_position(std::span<const TermId> fluents);
  // One move a role, in the order of the roles; no_term for a role that makes none.
  void set_joint_move(std::span<const TermId> moves);

  bool terminal();
  // For each role its legal moves, in the order of `Term`.
  std::vector<std::vector<TermId>> legal();
  // For each role the values derived for it, in the order of `Term`.
  std::vector<std::vector<TermId>> goals();
  // The next position, in ascending ids. Needs a joint move.
  std::vector<TermId> next();
  // For each role its percepts on entering the next position. Needs a joint move.
  std::vector<std::vector<TermId>> percepts();

  // How many rows were looked at and plans run so far, in all positions together: the same on
  // every machine. Of one component: without what it asked of others.
  std::uint64_t work() const { return runner_.work(); }
  std::uint64_t work_of(std::uint32_t component) const { return runner_.work_of(component); }

  // How many rows a table has by now.
  std::uint32_t rows(TableId table) const { return tables_[index_of(table)]->rows(); }
  // All instances of a relation in the position (and after the joint move, if it needs one).
  const Table& instances(RelationId relation);

 private:
  struct Question {  // a keyword's relation, if the description has it, and what it needs
    std::optional<RelationId> relation;
    std::vector<std::uint32_t> components;  // to be worked out one after the other
  };

  Question question(Keyword keyword) const;
  std::vector<std::uint32_t> needs(RelationId relation) const;
  const Table* answer(const Question& question);
  void forget(Phase phase);
  void add_fact(Keyword keyword, const std::optional<RelationId>& relation, TermId role,
                TermId term);
  std::vector<std::vector<TermId>> by_role(const Table* table);

  std::shared_ptr<const Program> program_;
  std::vector<std::unique_ptr<Table>> own_;  // tables that are not constant
  std::vector<Table*> tables_;               // by TableId
  std::vector<Table*> step_inputs_;
  std::vector<Table*> position_inputs_;
  std::optional<RelationId> true_;
  std::optional<RelationId> does_;
  Question terminal_;
  Question legal_;
  Question goal_;
  Question next_;
  Question sees_;
  Runner runner_;
  std::vector<TermId> row_;
};

}  // namespace orchard::logic
