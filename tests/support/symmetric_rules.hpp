// Random descriptions of plantings in beds round a pond: turned round it, and often mirrored, they
// stay the same game. Some go on for ever, some end with several outcomes.
#pragma once

#include <cstdint>
#include <string>

namespace orchard::testing {

std::string symmetric_rules(std::uint64_t seed);

}  // namespace orchard::testing
