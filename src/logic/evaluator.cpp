#include "logic/evaluator.hpp"

#include <algorithm>

namespace orchard::logic {

Evaluator::Evaluator(std::shared_ptr<const Program> program)
    : program_(std::move(program)), runner_(*program_) {
  const rules::Description& description = program_->description();
  own_.resize(program_->tables().size());
  tables_.resize(own_.size());
  for (std::size_t t = 0; t < own_.size(); ++t) {
    const auto id = TableId{static_cast<std::uint32_t>(t)};
    if (program_->tables()[t].phase == Phase::constant) {
      // Constant tables are only ever read; the runner writes to tables of the component it runs.
      tables_[t] = const_cast<Table*>(&program_->prepared_table(id));
    } else {
      own_[t] = std::make_unique<Table>(program_->prepared_table(id));
      tables_[t] = own_[t].get();
    }
  }
  true_ = description.find(Keyword::true_);
  does_ = description.find(Keyword::does);
  for (std::size_t t = 0; t < own_.size(); ++t) {
    if (!program_->tables()[t].input) continue;
    const bool step = program_->tables()[t].phase == Phase::step;
    (step ? step_inputs_ : position_inputs_).push_back(tables_[t]);
  }
  if (true_) position_inputs_.push_back(tables_[index_of(program_->table(*true_))]);
  if (does_) step_inputs_.push_back(tables_[index_of(program_->table(*does_))]);
  runner_.start(tables_);
  terminal_ = question(Keyword::terminal);
  legal_ = question(Keyword::legal);
  goal_ = question(Keyword::goal);
  next_ = question(Keyword::next);
  sees_ = question(Keyword::sees);
}

Evaluator::Question Evaluator::question(Keyword keyword) const {
  Question result;
  result.relation = program_->description().find(keyword);
  if (result.relation) result.components = needs(*result.relation);
  return result;
}

std::vector<std::uint32_t> Evaluator::needs(RelationId relation) const {
  if (!program_->answers_when_asked()) return program_->needs(relation);
  if (program_->tables()[rules::index_of(relation)].phase == Phase::constant) return {};
  return {program_->dependency().component(relation)};
}

void Evaluator::forget(Phase phase) {
  runner_.forget(phase);
  for (Table* input : phase == Phase::step ? step_inputs_ : position_inputs_) input->clear();
}

// Files a fluent or a move under its whole term and under its name.
void Evaluator::add_fact(Keyword keyword, const std::optional<RelationId>& relation, TermId role,
                         TermId term) {
  row_.clear();
  if (role != rules::no_term) row_.push_back(role);
  if (relation) {
    row_.push_back(term);
    tables_[index_of(program_->table(*relation))]->insert(row_.data());
    row_.pop_back();
  }
  const rules::TermTable::Entry& entry = program_->terms()[term];
  const auto part = program_->part({keyword, entry.symbol, entry.arity});
  if (!part) return;
  row_.insert(row_.end(), entry.arguments, entry.arguments + entry.arity);
  tables_[index_of(*part)]->insert(row_.data());
}

void Evaluator::set_position(std::span<const TermId> fluents) {
  forget(Phase::step);
  forget(Phase::position);
  runner_.start_count();
  for (const TermId fluent : fluents) add_fact(Keyword::true_, true_, rules::no_term, fluent);
}

void Evaluator::set_joint_move(std::span<const TermId> moves) {
  forget(Phase::step);
  const std::vector<TermId>& roles = program_->description().roles();
  for (std::size_t r = 0; r < roles.size(); ++r) {
    if (moves[r] != rules::no_term) add_fact(Keyword::does, does_, roles[r], moves[r]);
  }
}

const Table* Evaluator::answer(const Question& question) {
  if (!question.relation) return nullptr;
  for (const std::uint32_t component : question.components) runner_.work_out(component);
  return tables_[index_of(program_->table(*question.relation))];
}

const Table& Evaluator::instances(RelationId relation) {
  for (const std::uint32_t component : needs(relation)) runner_.work_out(component);
  return *tables_[index_of(program_->table(relation))];
}

bool Evaluator::terminal() {
  const Table* table = answer(terminal_);
  return table != nullptr && table->rows() > 0;
}

std::vector<std::vector<TermId>> Evaluator::by_role(const Table* table) {
  const std::vector<TermId>& roles = program_->description().roles();
  std::vector<std::vector<TermId>> result(roles.size());
  if (table == nullptr) return result;
  for (std::uint32_t row = 0; row < table->rows(); ++row) {
    const auto role = std::ranges::find(roles, table->row(row)[0]);
    if (role == roles.end()) continue;  // a value for somebody who is no role
    result[static_cast<std::size_t>(role - roles.begin())].push_back(table->row(row)[1]);
  }
  for (std::vector<TermId>& terms : result) {
    std::ranges::sort(terms, [&](TermId a, TermId b) { return program_->compare(a, b) < 0; });
  }
  return result;
}

std::vector<std::vector<TermId>> Evaluator::legal() {
  return by_role(answer(legal_));
}
std::vector<std::vector<TermId>> Evaluator::goals() {
  return by_role(answer(goal_));
}
std::vector<std::vector<TermId>> Evaluator::percepts() {
  return by_role(answer(sees_));
}

std::vector<TermId> Evaluator::next() {
  std::vector<TermId> result;
  const Table* table = answer(next_);
  if (table == nullptr) return result;
  for (std::uint32_t row = 0; row < table->rows(); ++row) result.push_back(*table->row(row));
  std::ranges::sort(result);
  return result;
}

}  // namespace orchard::logic
