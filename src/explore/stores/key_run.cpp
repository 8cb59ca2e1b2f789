#include "explore/stores/key_run.hpp"

#include <algorithm>

namespace orchard::explore {

template <std::size_t words>
void KeyRunWriter<words>::begin(std::uint64_t keys, std::uint32_t part_bits) {
  coded_.clear();
  places_.clear();
  bit_ = 0;
  open_ = 0;
  keys_ = 0;
  before_ = 0;
  // The best number of bits for a mean difference m is about log2(m ln 2) (Gallager and Van Voorhis
  // 1975); 0.7 of m is half of it or nearly all.
  const std::uint32_t spread = 64 - std::min(63u, shape_.free_bits + part_bits);
  const auto key_bits = static_cast<std::uint32_t>(std::bit_width(keys | 1));
  rice_bits_ = spread > key_bits ? std::min(spread - key_bits, 62u) : 0;
}

template <std::size_t words>
KeyRun<words> KeyRunWriter<words>::finish(RunShelf& shelf) {
  if (keys_ == 0) return {};
  coded_.resize((bit_ + 63) / 64);
  const std::uint64_t first_place = coded_.size();
  coded_.insert(coded_.end(), places_.begin(), places_.end());
  return KeyRun<words>(coded_, {keys_, first_place, rice_bits_}, shelf);
}

template <std::size_t words>
void KeyRunReader<words>::advance_to(std::uint64_t number) {
  if (number >= keys_) {
    at_ = keys_;
    return;
  }
  const std::uint64_t place = number / keys_of_a_place;
  if (place > at_ / keys_of_a_place) {
    at_ = place * keys_of_a_place;
    read();
  }
  while (at_ < number) advance();
}

template <std::size_t words>
bool KeyRunReader<words>::contains(const Key<words>& key) {
  if (at_end()) return false;
  // The last place that begins before the key, by strides that double and then halve.
  const std::uint64_t places = (keys_ + keys_of_a_place - 1) / keys_of_a_place;
  const std::uint64_t here = at_ / keys_of_a_place;
  if (here + 1 < places && place_key(here + 1) < key[0]) {
    std::uint64_t first = here + 1;  // begins before the key
    std::uint64_t stride = 1;
    while (first + stride < places && place_key(first + stride) < key[0]) {
      first += stride;
      stride *= 2;
    }
    for (; stride > 0; stride /= 2) {
      if (first + stride < places && place_key(first + stride) < key[0]) first += stride;
    }
    at_ = first * keys_of_a_place;
    read();
  }
  while (key_before(key_, key)) {
    advance();
    if (at_end()) return false;
  }
  return same_key(key_, key);
}

template <std::size_t words>
void put_in_order(std::vector<Key<words>>& keys, std::uint32_t part_bits,
                  std::vector<Key<words>>& spare) {
  // Evenly spread as they are, they are nearly in order once shared out by their highest bits.
  constexpr std::size_t keys_of_a_share = 4;
  const auto share_bits = std::min(
      static_cast<std::uint32_t>(std::bit_width(keys.size() / keys_of_a_share)), 63 - part_bits);
  if (share_bits > 0) {
    const auto share = [&](const Key<words>& key) {
      return key[0] << part_bits >> (64 - share_bits);
    };
    std::vector<std::uint32_t> ends((std::size_t{1} << share_bits) + 1, 0);
    for (const Key<words>& key : keys) ++ends[share(key) + 1];
    for (std::size_t s = 1; s < ends.size(); ++s) ends[s] += ends[s - 1];
    spare.resize(keys.size());
    for (const Key<words>& key : keys) spare[ends[share(key)]++] = key;
    std::swap(keys, spare);
    std::uint32_t first = 0;
    for (std::size_t s = 0; s + 1 < ends.size(); ++s) {
      if (ends[s] > first + 1) {
        std::sort(keys.begin() + first, keys.begin() + ends[s], key_before<words>);
      }
      first = ends[s];
    }
  } else {
    std::ranges::sort(keys, key_before<words>);
  }
  keys.erase(std::unique(keys.begin(), keys.end(), same_key<words>), keys.end());
}

#define ORCHARD_RUNS(words)           \
  template class KeyRunWriter<words>; \
  template class KeyRunReader<words>; \
  template void put_in_order(std::vector<Key<words>>&, std::uint32_t, std::vector<Key<words>>&)
ORCHARD_RUNS(1);
ORCHARD_RUNS(2);
ORCHARD_RUNS(3);
#undef ORCHARD_RUNS

}  // namespace orchard::explore
