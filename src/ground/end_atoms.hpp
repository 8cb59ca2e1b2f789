// Atoms that give `terminal` by themselves: with one of them the game is over, so that no rule for
// `next` needs an instance with it.
//
// An atom gives another one by itself if a ground clause has it as the only condition that changes
// during play; this goes on through any number of clauses. Told as the clauses are made, in any
// order. Linear in the clauses with one such condition.
#pragma once

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
      return;
    }
    if (given_by_.size() <= index_of(head)) given_by_.resize(index_of(head) + 1, no_link);
    links_.push_back({from, given_by_[index_of(head)]});
    given_by_[index_of(head)] = static_cast<std::uint32_t>(links_.size() - 1);
  }

 private:
  static constexpr std::uint32_t no_link = 0xFFFFFFFF;
  struct Link {
    AtomId from;
    std::uint32_t next;  // of the same head
  };

  void mark(AtomId atom) {
    std::vector<AtomId> open{atom};
    while (!open.empty()) {
      const AtomId next = open.back();
      open.pop_back();
      if (contains(next)) continue;
      if (is_end_.size() <= index_of(next)) is_end_.resize(index_of(next) + 1);
      is_end_[index_of(next)] = true;
      if (index_of(next) >= given_by_.size()) continue;
      for (std::uint32_t l = given_by_[index_of(next)]; l != no_link; l = links_[l].next) {
        open.push_back(links_[l].from);
      }
    }
  }

  std::vector<bool> is_end_;             // by atom
  std::vector<std::uint32_t> given_by_;  // by atom: the last link of those that give it
  std::vector<Link> links_;
};

}  // namespace orchard::ground
