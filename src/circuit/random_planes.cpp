#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "circuit/random_planes.cpp"
#include <hwy/foreach_target.h>  // compiles this file once for each kind of processor
// (the order of these matters)
#include <hwy/highway.h>

#include "circuit/random_planes.hpp"

HWY_BEFORE_NAMESPACE();
namespace orchard::circuit::HWY_NAMESPACE {

// Words from `first` on, each from those before it.
void fill(std::uint64_t* words, std::size_t first, std::size_t end) {
  namespace hn = hwy::HWY_NAMESPACE;
  constexpr std::size_t block = lanes / 64;
  const hn::CappedTag<std::uint64_t, block> tag;
  for (std::size_t at = first; at < end; at += hn::Lanes(tag)) {
    const auto a =
        hn::Xor(hn::Load(tag, words + at - 216 * block), hn::Load(tag, words + at - 337 * block));
    const auto b =
        hn::Xor(hn::Load(tag, words + at - 579 * block), hn::Load(tag, words + at - 1279 * block));
    hn::Store(hn::Xor(a, b), tag, words + at);
  }
}

}  // namespace orchard::circuit::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace orchard::circuit {

HWY_EXPORT(fill);

namespace {

// Steele, Lea and Flood, "Fast splittable pseudorandom number generators" (2014).
std::uint64_t mixed(std::uint64_t& state) {
  state += 0x9E3779B97F4A7C15ULL;
  std::uint64_t z = state;
  z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;
  z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;
  return z ^ (z >> 31);
}

}  // namespace

RandomPlanes::RandomPlanes(std::uint64_t seed, std::uint64_t part) : planes_(longest + most) {
  std::uint64_t state = seed;
  state = mixed(state) ^ (part * 0xD1342543DE82EF95ULL);
  for (std::size_t p = 0; p < longest; ++p) {
    for (std::uint64_t& word : planes_[p].words) word = mixed(state);
  }
  refill();
}

void RandomPlanes::refill() {
  std::uint64_t* const words = planes_.front().words.data();
  constexpr std::size_t block = lanes / 64;
  HWY_DYNAMIC_DISPATCH(fill)(words, longest * block, planes_.size() * block);
}

const LaneBlock* RandomPlanes::take(std::size_t count) {
  if (next_ + count > planes_.size()) {
    // What is left is given up, so that a call's planes stand in a row.
    std::copy(planes_.end() - static_cast<std::ptrdiff_t>(longest), planes_.end(), planes_.begin());
    refill();
    next_ = longest;
  }
  const LaneBlock* const result = planes_.data() + next_;
  next_ += count;
  return result;
}

}  // namespace orchard::circuit
#endif
