// Helpers on the names of the language.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

namespace orchard {

// The value of a name that is a decimal integer ("7", "-12") of up to 18 digits.
std::optional<std::int64_t> integer_value(std::string_view name);

}  // namespace orchard
