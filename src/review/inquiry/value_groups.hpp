// Fluents that seem meant to have one value for each key: (square ROW COLUMN one-of-these).
#pragma once

#include <map>
#include <string>
#include <vector>

#include "review/inquiry/exploration.hpp"

namespace orchard::review {

struct ValueGroup {
  std::string name;
  std::size_t arity = 0;
  std::size_t value_place = 0;                                   // the key is all other places
  bool total = false;                                            // no key is to be without a value
  std::map<std::vector<Term>, std::vector<std::uint32_t>> keys;  // fluents of each key
};

// From the start of the game: a place is taken for a value if no key has two values there. A single
// key whose fluents some rule keeps for ever is a list. Keys are those of fluents that can be, and
// of declared ones.
std::vector<ValueGroup> value_groups(const Exploration& exploration);

// What `base` declares; nothing if the rules do not use it.
std::vector<Term> declared_fluents(const Exploration& exploration);
// What `input` declares, by role.
std::vector<std::vector<Term>> declared_moves(const Exploration& exploration);

}  // namespace orchard::review
