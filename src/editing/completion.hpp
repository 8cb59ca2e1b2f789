// What can be written at a point of a text that is being typed, and so may not read.
#pragma once

#include <string>
#include <vector>

#include "editing/names.hpp"
#include "editing/shelf.hpp"

namespace orchard::editing {

struct Completion {
  std::string name;    // what is listed
  std::string insert;  // what is written in place of the stretch: "(line " goes on with arguments
  std::string detail;  // its shape or meaning
  Sort sort = Sort::constant;
};

struct Completions {
  std::uint32_t begin = 0;  // the stretch that is being typed, in bytes
  std::uint32_t end = 0;
  std::vector<Completion> items;  // in the order of names, the most likely kind first
};

// At a byte of a text in the prefix syntax; none in comments, quotes and the infix syntax.
// `known`: the names of the rules as they were last read, null if they never were; `reading`
// likewise. O(text + names).
Completions completions_at(std::string_view text, std::uint32_t offset, Paper paper,
                           const Names* known, const Reading* reading);

}  // namespace orchard::editing
