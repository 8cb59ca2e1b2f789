// The directives and how they are written.
#pragma once

#include <span>
#include <string_view>

namespace orchard::syntax {

struct DirectiveFacts {
  std::string_view name;
  std::string_view shape;  // "(#let NAME NUMBER)"
};
std::span<const DirectiveFacts> directives();
const DirectiveFacts* find_directive(std::string_view name);  // null if there is none

}  // namespace orchard::syntax
