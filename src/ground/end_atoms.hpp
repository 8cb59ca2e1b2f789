// Atoms that give `terminal` by themselves: with one of them the game is over, so that no rule for
// `next` needs an instance with it.
//
// An atom gives another one by itself if a ground clause has it as the only condition that changes
// during play; this goes on through any number of clauses. Told as the clauses are made, in any
// order. Linear in the clauses with one such condition.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <vector>

#include "ground/ground_program.hpp"

namespace orchard::ground {

class EndAtoms {
 public:
  bool contains(AtomId atom) const {
    return index_of(atom) < is_end_.size() && is_end_[index_of(atom)];
  }
  // `from` alone gives `head`, which may be `terminal` itself.
  void add(AtomId from, AtomId head, bool head_is_terminal) {
    if (head_is_terminal || contains(head)) {
      mark(from);
    } else {
      given_by_[head].push_back(from);
    }
  }

 private:
  void mark(AtomId atom) {
    std::vector<AtomId> open{atom};
    while (!open.empty()) {
      const AtomId next = open.back();
      open.pop_back();
      if (contains(next)) continue;
      if (is_end_.size() <= index_of(next)) is_end_.resize(index_of(next) + 1);
      is_end_[index_of(next)] = true;
      const auto by = given_by_.find(next);
      if (by != given_by_.end()) open.insert(open.end(), by->second.begin(), by->second.end());
    }
  }

  std::vector<bool> is_end_;                                   // by atom
  absl::flat_hash_map<AtomId, std::vector<AtomId>> given_by_;  // single atoms that give this one
};

}  // namespace orchard::ground
