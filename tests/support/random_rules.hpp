// Random descriptions for differential tests: small, but with recursion, negation, nested terms,
// `or`, `distinct`, several roles and simultaneous moves. Well formed by construction.
#pragma once

#include <cstdint>
#include <string>

namespace orchard::testing {

std::string random_rules(std::uint64_t seed);

}  // namespace orchard::testing
