// The drawing facts: what drawing rules may derive, and how it is written.
#pragma once

#include <cstdint>
#include <span>
#include <string_view>

namespace orchard::picture {

struct DrawingFact {
  std::string_view name;
  std::uint32_t arity;
  std::string_view shape;  // "(piece PLACE SHAPE TONE)"
  std::string_view meaning;
};
std::span<const DrawingFact> drawing_facts();

}  // namespace orchard::picture
