// The index of rows against a map of a library, with hashes that often meet.
#include "explore/space/row_index.hpp"

#include <gtest/gtest.h>

#include <map>

#include "orchard/random.hpp"

namespace orchard::explore::row_index_test {
namespace {

TEST(RowIndex, FindsWhatWasPutInAndNothingElse) {
  // Of `spread` different hashes: all the same, neighbours that wrap round the end, and many.
  for (const std::uint64_t spread : {1u, 3u, 1000u, 0xFFFFFFFFu}) {
    Random random(spread);
    std::vector<std::uint64_t> rows;
    std::map<std::uint64_t, RowIndex::Number> model;
    RowIndex index;
    const auto hash_of = [&](std::uint64_t row) {
      return static_cast<std::uint32_t>(0xFFFFFFFFu - row * 0x9E3779B97F4A7C15 % spread);
    };
    const auto find = [&](std::uint64_t row) {
      return index.find(hash_of(row), [&](RowIndex::Number n) { return rows[n] == row; });
    };
    const int count = spread < 1000 ? 700 : 20'000;
    for (int i = 0; i < count; ++i) {
      const std::uint64_t row = random.below(static_cast<std::uint32_t>(count));
      const auto known = model.find(row);
      const auto found = find(row);
      ASSERT_EQ(found.has_value(), known != model.end());
      if (found) {
        ASSERT_EQ(*found, known->second);
        ASSERT_TRUE(index.likely(hash_of(row)).has_value());
        continue;
      }
      const auto number = static_cast<RowIndex::Number>(rows.size());
      rows.push_back(row);
      model.emplace(row, number);
      index.add(hash_of(row), number);
    }
    for (std::uint64_t row = 0; row < static_cast<std::uint64_t>(count); ++row) {
      ASSERT_EQ(find(row).has_value(), model.contains(row));
    }
    EXPECT_LE(index.bytes(), std::max<std::uint64_t>(rows.size() * 8 * 8 / 3, 64 * 8));
  }
}

TEST(RowIndex, MakesRoomAtOnce) {
  RowIndex index;
  index.reserve(1000);
  const std::uint64_t bytes = index.bytes();
  for (RowIndex::Number n = 0; n < 1000; ++n) index.add(n * 4'294'967, n);
  EXPECT_EQ(index.bytes(), bytes);
  EXPECT_EQ(index.likely(5), std::nullopt);
  EXPECT_EQ(index.likely(4'294'967 * 7), 7u);
}

}  // namespace
}  // namespace orchard::explore::row_index_test
