// The inner loops over blocks of lanes, lane by lane.
#include <gtest/gtest.h>

#include <bit>
#include <map>

#include "circuit/lanes/lane_kernels.hpp"
#include "orchard/random.hpp"

namespace orchard::circuit::lane_kernels_test {
namespace {

LaneBlock random_block(Random& random, std::uint64_t one_in) {
  LaneBlock block;
  for (std::uint32_t lane = 0; lane < lanes; ++lane) {
    if (random.below(one_in) == 0) block.words[lane / 64] |= std::uint64_t{1} << lane % 64;
  }
  return block;
}

bool has(const LaneBlock& block, std::uint32_t lane) {
  return (block.words[lane / 64] >> lane % 64 & 1) != 0;
}

// xoshiro256++ as published, one word at a time.
std::uint64_t published(std::array<std::uint64_t, 4>& s) {
  const std::uint64_t result = std::rotl(s[0] + s[3], 23) + s[0];
  const std::uint64_t t = s[1] << 17;
  s[2] ^= s[0];
  s[3] ^= s[1];
  s[1] ^= s[2];
  s[0] ^= s[3];
  s[2] ^= t;
  s[3] = std::rotl(s[3], 45);
  return result;
}

TEST(LaneKernels, RandomPlanesAreThePublishedGenerator) {
  Random random(1);
  std::vector<LaneBlock> state;
  for (int b = 0; b < 16; ++b) state.push_back(random_block(random, 2));
  std::vector<LaneBlock> planes(40);
  const std::vector<LaneBlock> before = state;
  make_planes(state.data(), planes.data(), planes.size());
  for (std::size_t generator = 0; generator < 4; ++generator) {
    for (std::size_t w = 0; w < 8; ++w) {
      std::array<std::uint64_t, 4> s{};
      for (std::size_t i = 0; i < 4; ++i) s[i] = before[4 * generator + i].words[w];
      for (std::size_t p = generator; p < planes.size(); p += 4) {
        ASSERT_EQ(planes[p].words[w], published(s));
      }
      for (std::size_t i = 0; i < 4; ++i) EXPECT_EQ(state[4 * generator + i].words[w], s[i]);
    }
  }
}

TEST(LaneKernels, CountersCountEveryLane) {
  Random random(2);
  BitCounter counter{};
  std::uint64_t wanted = 0;
  constexpr std::size_t stride = 3;
  for (int round = 0; round < 20; ++round) {
    std::vector<LaneBlock> blocks;
    for (std::size_t b = 0; b < 16 * stride; ++b) blocks.push_back(random_block(random, 1 + b % 4));
    count_sixteen(blocks.data() + 1, stride, counter);
    for (std::size_t b = 1; b < blocks.size(); b += stride) wanted += count_lanes(blocks[b]);
    count_one(blocks.front(), counter);
    wanted += count_lanes(blocks.front());
    ASSERT_EQ(counter.total(), wanted);
  }
}

TEST(LaneKernels, NumbersAreCountedByValue) {
  Random random(3);
  for (const std::size_t width : {0u, 1u, 4u, 9u, 20u}) {
    std::vector<LaneBlock> bits;
    for (std::size_t b = 0; b < width; ++b) bits.push_back(random_block(random, 3));
    const LaneBlock of_lanes = random_block(random, 2);
    std::map<std::uint64_t, std::uint64_t> wanted;
    for (std::uint32_t lane = 0; lane < lanes; ++lane) {
      if (!has(of_lanes, lane)) continue;
      std::uint64_t number = 0;
      for (std::size_t b = 0; b < width; ++b) {
        number |= static_cast<std::uint64_t>(has(bits[b], lane)) << b;
      }
      ++wanted[number];
    }
    std::vector<NumberCount> found(lanes);
    found.resize(count_numbers(bits.data(), width, of_lanes, found.data()));
    std::map<std::uint64_t, std::uint64_t> got;
    for (const auto& [number, count] : found) {
      EXPECT_TRUE(got.emplace(number, count).second) << "twice";
    }
    EXPECT_EQ(got, wanted);
  }
}

TEST(LaneKernels, OneLessUntilNothingIsLeft) {
  Random random(4);
  std::vector<LaneBlock> bits;
  for (int b = 0; b < 3; ++b) bits.push_back(random_block(random, 2));
  std::array<int, lanes> left{};
  LaneBlock some;
  for (std::uint32_t lane = 0; lane < lanes; ++lane) {
    for (int b = 0; b < 3; ++b) left[lane] |= has(bits[static_cast<std::size_t>(b)], lane) << b;
    if (left[lane] > 0) some.words[lane / 64] |= std::uint64_t{1} << lane % 64;
  }
  for (int round = 0; round < 12; ++round) {
    LaneBlock of_lanes = random_block(random, 2);
    for (std::size_t w = 0; w < 8; ++w) of_lanes.words[w] &= some.words[w];
    count_down(bits.data(), bits.size(), of_lanes, some);
    for (std::uint32_t lane = 0; lane < lanes; ++lane) {
      if (has(of_lanes, lane)) --left[lane];
      ASSERT_EQ(has(some, lane), left[lane] > 0);
    }
  }
}

}  // namespace
}  // namespace orchard::circuit::lane_kernels_test
