#include "explain/facts.hpp"

namespace orchard::explain {

Facts::Facts(std::shared_ptr<const logic::Program> program, std::span<const TermId> fluents,
             std::span<const TermId> joint)
    : program_(std::move(program)), evaluator_(program_), has_joint_(!joint.empty()) {
  evaluator_.set_position(fluents);
  if (has_joint_) evaluator_.set_joint_move(joint);
  tables_.resize(program_->description().relations().size());
}

const logic::Table& Facts::table(RelationId relation) {
  const logic::Table*& known = tables_[rules::index_of(relation)];
  if (known == nullptr) known = &evaluator_.instances(relation);
  return *known;
}

bool Facts::contains(RelationId relation, const std::vector<TermId>& row) {
  return table(relation).contains(row.data());
}

const TermId* Facts::row(RelationId relation, std::uint32_t number) {
  return table(relation).row(number);
}

std::span<const std::uint32_t> Facts::matching(RelationId relation,
                                               const std::vector<TermId>& key) {
  std::vector<bool> bound(key.size());
  for (std::size_t i = 0; i < key.size(); ++i) bound[i] = key[i] != rules::no_term;
  const logic::Table& all = table(relation);
  const auto [known, is_new] = indexes_.try_emplace({relation, bound});
  Index& index = known->second;
  if (is_new) {
    std::vector<TermId> values(key.size());
    for (std::uint32_t row = 0; row < all.rows(); ++row) {
      for (std::size_t i = 0; i < key.size(); ++i) {
        values[i] = bound[i] ? all.row(row)[i] : rules::no_term;
      }
      index.rows[values].push_back(row);
    }
  }
  const auto found = index.rows.find(key);
  if (found == index.rows.end()) return {};
  return found->second;
}

}  // namespace orchard::explain
