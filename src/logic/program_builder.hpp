// Makes the parts of a Program: tables, plans, and the rows that never change.
//
// First forward, in computing order, what is constant. Then every relation is planned as a whole,
// and the work is counted on a few random plies. Where it is not little, it is counted with
// relations asked (backward, users before what they use, to learn which columns all users of a
// relation know), and with only those asked that had less work so; the least of the three stays.
#pragma once

#include <vector>

#include "logic/planner.hpp"
#include "logic/program.hpp"

namespace orchard::logic {

class ProgramBuilder {
 public:
  explicit ProgramBuilder(Program& program) : program_(program), planner_(program) {}

  // May throw LimitExceeded.
  void run(Program::Answering answering);

 private:
  // Which columns the users of a relation know, as far as they were looked at.
  struct Known {
    bool used = false;
    std::vector<std::uint32_t> columns;
  };

  void make_tables();
  void add_component(std::uint32_t number);
  void add_fact(const rules::Clause& clause, Program::Component& result);
  void plan_whole(std::uint32_t number);
  void plan_play();
  void choose_asked();
  void find_asked();
  bool settle_columns(std::uint32_t number);
  void note_users(std::uint32_t number);
  void note(const std::vector<Planner::Placed>& placed, std::uint32_t own);
  void make_key_tables(std::uint32_t number);
  void plan_asked(std::uint32_t number);
  void plan_questions(std::uint32_t clause, std::uint32_t component);
  std::vector<std::size_t> own_literals(std::uint32_t clause, std::uint32_t component) const;
  std::size_t longest_chain() const;
  void read_initial();
  void rank_symbols();

  Program& program_;
  Planner planner_;
  std::vector<Known> known_;      // by relation
  std::vector<bool> as_a_whole_;  // by component: not to be asked
  std::size_t tables_before_keys_ = 0;
};

}  // namespace orchard::logic
