// The arithmetic of directives, on 64-bit integers.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

namespace orchard::syntax {

struct Combined {
  std::optional<std::int64_t> value;
  std::string_view fault;  // if there is none
  std::string_view remedy;
};

// #+ #- #* #div #mod: #div rounds down, #mod is never negative.
Combined combined(std::string_view operation, std::int64_t a, std::int64_t b);

}  // namespace orchard::syntax
