// Numbers of things in words.
#pragma once

#include <cstdint>
#include <string>

namespace orchard {

// "1 ply", "7 plies".
inline std::string counted(std::uint64_t count, const char* one, const char* several) {
  return std::to_string(count) + " " + (count == 1 ? one : several);
}

}  // namespace orchard
