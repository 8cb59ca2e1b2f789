// Everything that holds in a position (and under a joint move), looked up by any bound arguments.
//
// Owns a reference evaluator; indexes are made when first asked for. One thread at a time. May
// throw logic::LimitExceeded where the rules cost too much.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <optional>
#include <span>
#include <vector>

#include "logic/evaluator.hpp"

namespace orchard::explain {

using rules::RelationId;
using rules::TermId;

class Facts {
 public:
  // `joint` by role; empty if no move is being made.
  Facts(std::shared_ptr<const logic::Program> program, std::span<const TermId> fluents,
        std::span<const TermId> joint);

  const logic::Program& program() const { return *program_; }
  bool has_joint_move() const { return has_joint_; }

  bool contains(RelationId relation, const std::vector<TermId>& row);
  const TermId* row(RelationId relation, std::uint32_t number);
  // The rows whose arguments equal those of `key` that are not no_term, in the order of the table.
  std::span<const std::uint32_t> matching(RelationId relation, const std::vector<TermId>& key);

 private:
  struct Index {
    absl::flat_hash_map<std::vector<TermId>, std::vector<std::uint32_t>> rows;
  };
  const logic::Table& table(RelationId relation);

  std::shared_ptr<const logic::Program> program_;
  logic::Evaluator evaluator_;
  bool has_joint_ = false;
  std::vector<const logic::Table*> tables_;  // by relation, once asked for
  absl::flat_hash_map<std::pair<RelationId, std::vector<bool>>, Index> indexes_;
};

}  // namespace orchard::explain
