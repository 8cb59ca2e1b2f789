// How positions are kept, decided from what is known: a table.
#include "explore/census/storage_plan.hpp"

#include <gtest/gtest.h>

namespace orchard::explore::storage_plan_test {
namespace {

using Store = StoragePlan::Store;

constexpr std::uint64_t megabyte = 1 << 20;

StorageFacts facts(std::optional<std::uint32_t> joined_bits, std::uint64_t keys = 0) {
  StorageFacts result;
  result.joined_bits = joined_bits;
  result.keys = keys;
  result.memory = 8192 * megabyte;
  return result;
}

TEST(StoragePlan, IsTakenFromWhatIsKnown) {
  const auto with = [](StorageFacts result, auto&& change) {
    change(result);
    return result;
  };
  const struct {
    const char* about;
    StorageFacts known;
    Store store;
    bool layers;
    std::optional<std::uint64_t> most_keys;
  } table[] = {
      {"little is known: sets, for a while", facts({}), Store::sets, false, 3'000'000},
      {"keys of two words: fewer", with(facts({}), [](auto& f) { f.words = 2; }), Store::sets,
       false, 1'500'000},
      {"sets were outgrown", facts({}, 3'000'001), Store::runs, false, {}},
      {"little memory holds few keys", with(facts({}), [](auto& f) { f.memory = 128'000; }),
       Store::sets, false, 1000},
      {"short keys: bits at once", facts(24), Store::bitmap, false, {}},
      {"layers apart",
       with(facts(24), [](auto& f) { f.layers_apart = true; }),
       Store::bitmap,
       true,
       {}},
      {"a large bitmap waits until keys are many",
       with(facts(33), [](auto& f) { f.layers_apart = true; }), Store::sets, true,
       1024 * megabyte / 400},
      {"and then is used",
       with(facts(33, 3'000'000), [](auto& f) { f.layers_apart = true; }),
       Store::bitmap,
       true,
       {}},
      {"it does not fit into memory",
       with(facts(33, 9'000'000), [](auto& f) { f.memory = 100 * megabyte; }),
       Store::runs,
       false,
       {}},
      {"nor was there room",
       with(facts(24, 9'000'000), [](auto& f) { f.no_room_for_bits = true; }),
       Store::runs,
       false,
       {}},
      {"one key stands for many", with(facts(24), [](auto& f) { f.alike = 8; }), Store::sets, false,
       3'000'000},
      {"no bitmap has so many bits", facts(60, 9'000'000), Store::runs, false, {}},
      {"asked for: runs",
       with(facts(24), [](auto& f) { f.asked = CensusStore::runs; }),
       Store::runs,
       false,
       {}},
      {"asked for: a bitmap, whatever it takes",
       with(facts(33),
            [](auto& f) {
              f.asked = CensusStore::bitmap;
              f.memory = megabyte;
            }),
       Store::bitmap,
       false,
       {}},
      {"asked for: keys, all of them",
       with(facts(24),
            [](auto& f) {
              f.asked = CensusStore::keys;
              f.layers_apart = true;
            }),
       Store::sets,
       false,
       {}},
      {"asked for: two layers",
       with(facts(24),
            [](auto& f) {
              f.asked = CensusStore::layers;
              f.layers_apart = true;
            }),
       Store::sets,
       true,
       {}},
      {"asked for, but not to be had",
       with(facts({}), [](auto& f) { f.asked = CensusStore::bitmap; }),
       Store::runs,
       false,
       {}},
  };
  for (const auto& row : table) {
    SCOPED_TRACE(row.about);
    const StoragePlan plan = plan_storage(row.known);
    EXPECT_EQ(plan.store, row.store);
    EXPECT_EQ(plan.layers, row.layers);
    EXPECT_EQ(plan.most_keys, row.most_keys);
    EXPECT_EQ(plan, plan_storage(row.known));
    StoragePlan saved = StoragePlan::of_numbers(plan.numbers());
    saved.most_keys = plan.most_keys;
    EXPECT_EQ(saved, plan);
  }
}

}  // namespace
}  // namespace orchard::explore::storage_plan_test
