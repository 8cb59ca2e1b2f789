// Mixed keys (see `key_set.hpp`) shared out among parts by their highest bits, so that threads can
// own parts, and so that the set of a part stays in the cache while many keys are put into it.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

namespace orchard::explore {

class KeyParts {
 public:
  static constexpr std::size_t count = 256;
  static std::size_t part_of(std::uint64_t mixed) { return mixed >> 56; }

  void add(std::uint64_t mixed) { parts_[part_of(mixed)].push_back(mixed); }
  std::vector<std::uint64_t>& operator[](std::size_t part) { return parts_[part]; }
  std::uint64_t size() const {
    std::uint64_t result = 0;
    for (const auto& part : parts_) result += part.size();
    return result;
  }
  std::uint64_t bytes() const {
    std::uint64_t result = 0;
    for (const auto& part : parts_) result += part.capacity() * sizeof(std::uint64_t);
    return result;
  }

 private:
  std::array<std::vector<std::uint64_t>, count> parts_;
};

}  // namespace orchard::explore
