// Mixed keys shared out among parts by the highest bits of their first word, so that threads can
// own parts, and so that the set of a part stays in the cache while many keys are put into it.
#pragma once

#include <vector>

#include "explore/keys/key_sink.hpp"

namespace orchard::explore {

inline constexpr std::uint32_t key_part_bits = 8;
inline constexpr std::size_t key_parts = std::size_t{1} << key_part_bits;

template <std::size_t words>
class KeyParts final : public KeySink<words> {
 public:
  explicit KeyParts(const KeyMixer<words>& mixer) : mixer_(mixer) {}
  static std::size_t part_of(const Key<words>& mixed) { return mixed[0] >> (64 - key_part_bits); }

  // Of plain keys.
  void add(std::span<const Key<words>> found) override {
    for (const Key<words>& key : found) {
      const Key<words> mixed = mixer_.mix(key);
      parts_[part_of(mixed)].push_back(mixed);
    }
  }
  // So that about so many keys in all fit without more memory being taken than they need.
  void make_room(std::uint64_t keys) {
    for (auto& part : parts_) part.reserve(keys / key_parts + keys / key_parts / 8 + 8);
  }
  std::vector<Key<words>>& operator[](std::size_t part) { return parts_[part]; }
  std::uint64_t size() const {
    std::uint64_t result = 0;
    for (const auto& part : parts_) result += part.size();
    return result;
  }
  std::uint64_t bytes() const {
    std::uint64_t result = 0;
    for (const auto& part : parts_) result += part.capacity() * sizeof(Key<words>);
    return result;
  }

 private:
  const KeyMixer<words> mixer_;
  std::array<std::vector<Key<words>>, key_parts> parts_;
};

}  // namespace orchard::explore
