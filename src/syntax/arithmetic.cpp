#include "syntax/arithmetic.hpp"

namespace orchard::syntax {

Combined combined(std::string_view operation, std::int64_t a, std::int64_t b) {
  std::int64_t result = 0;
  bool overflow = false;
  if (operation == "#+") {
    overflow = __builtin_add_overflow(a, b, &result);
  } else if (operation == "#-") {
    overflow = __builtin_sub_overflow(a, b, &result);
  } else if (operation == "#*") {
    overflow = __builtin_mul_overflow(a, b, &result);
  } else if (b == 0) {
    return {{}, "division by zero", "check the sizes"};
  } else if (b == -1) {
    overflow = operation == "#div" && __builtin_sub_overflow(0, a, &result);
  } else {
    const std::int64_t quotient = a / b;
    const std::int64_t rest = a % b;
    if (operation == "#div") {
      result = quotient - (rest != 0 && (rest < 0) != (b < 0) ? 1 : 0);
    } else {
      result = rest < 0 ? rest + (b < 0 ? -b : b) : rest;
    }
  }
  if (overflow) return {{}, "this number is too large", "make the sizes smaller"};
  return {result, {}, {}};
}

}  // namespace orchard::syntax
