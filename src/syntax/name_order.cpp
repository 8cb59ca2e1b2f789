#include <charconv>

#include "orchard/term.hpp"
#include "syntax/names.hpp"

namespace orchard {

std::optional<std::int64_t> integer_value(std::string_view name) {
  constexpr std::size_t longest = 18;  // digits that always fit 64 bits
  const std::string_view digits = name.starts_with('-') ? name.substr(1) : name;
  if (digits.empty() || digits.size() > longest) return std::nullopt;
  std::int64_t value = 0;
  const auto [end, error] = std::from_chars(name.data(), name.data() + name.size(), value);
  if (error != std::errc{} || end != name.data() + name.size()) return std::nullopt;
  return value;
}

std::strong_ordering compare_names(std::string_view a, std::string_view b) {
  const auto left = integer_value(a);
  const auto right = integer_value(b);
  if (left && right && *left != *right) return *left <=> *right;
  if (left.has_value() != right.has_value()) {
    return left ? std::strong_ordering::less : std::strong_ordering::greater;
  }
  return a <=> b;
}

}  // namespace orchard
