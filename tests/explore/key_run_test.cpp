// Mixed keys, sets of them, and coded runs: against sets of the library.
#include "explore/stores/key_run.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <random>
#include <set>

#include "explore/stores/key_parts.hpp"
#include "explore/stores/key_set.hpp"
#include "support/files.hpp"

namespace orchard::explore::key_run_test {
namespace {

// Of so many bits; many of them alike, if `few` bits say so.
template <std::size_t words>
Key<words> random_key(std::uint32_t bits, std::uint32_t few, std::mt19937_64& random) {
  Key<words> key{};
  for (std::uint32_t bit = 0; bit < std::min(bits, few); ++bit) {
    const std::uint32_t at = bit * (bits / std::min(bits, few));
    key[at / 64] |= (random() & 1) << (at % 64);
  }
  return key;
}

template <std::size_t words>
void expect_set_of_keys(std::uint32_t bits) {
  std::mt19937_64 random(bits);
  const KeyMixer<words> mixer(bits);
  std::set<Key<words>> model;
  KeySet<words> set;
  set.reserve(1000);
  for (int i = 0; i < 50'000; ++i) {
    const Key<words> key = random_key<words>(bits, 13, random);
    const auto mixed = mixer.mix(key);
    EXPECT_EQ(mixer.unmix(mixed), key);
    EXPECT_EQ(set.insert(mixed), model.insert(mixed).second);
  }
  EXPECT_EQ(set.size(), model.size());
  std::set<Key<words>> held(set.places().begin(), set.places().end());
  held.erase(KeySet<words>::free_place);
  EXPECT_EQ(held, model);
  KeySet<words> again;
  again.restore({set.places().begin(), set.places().end()});
  EXPECT_EQ(again.size(), set.size());
  for (const auto& key : held) EXPECT_FALSE(again.insert(key));
}

TEST(KeySet, HoldsWhatWasPutIn) {
  for (const std::uint32_t bits : {1, 2, 13, 40, 63}) expect_set_of_keys<1>(bits);
  for (const std::uint32_t bits : {64, 84, 127}) expect_set_of_keys<2>(bits);
  for (const std::uint32_t bits : {128, 132, 191}) expect_set_of_keys<3>(bits);
}

// Every word of few bits is mixed into another one of as few.
TEST(KeyMixer, LosesNothingOfShortKeys) {
  for (std::uint32_t bits = 1; bits <= 12; ++bits) {
    const KeyMixer<1> mixer(bits);
    std::set<std::uint64_t> mixed;
    for (std::uint64_t key = 0; key < std::uint64_t{1} << bits; ++key) {
      const Key<1> as = mixer.mix({key});
      EXPECT_EQ(as[0] << bits, 0u);
      EXPECT_EQ(mixer.unmix(as)[0], key);
      mixed.insert(as[0]);
    }
    EXPECT_EQ(mixed.size(), std::uint64_t{1} << bits);
  }
}

template <std::size_t words>
class Runs {
 public:
  Runs(std::uint32_t bits, std::uint32_t few, std::optional<RunShelf::Files> files)
      : bits_(bits), few_(few), shelf_(std::move(files)), random_(bits * 100 + few) {}

  void expect_as_written(std::size_t count) {
    const KeyMixer<words> mixer(bits_);
    const KeyShape<words> shape(bits_);
    std::vector<Key<words>> keys;
    for (std::size_t i = 0; i < count; ++i) {
      keys.push_back(mixer.mix(random_key<words>(bits_, few_, random_)));
    }
    const std::set<Key<words>> model(keys.begin(), keys.end());
    std::vector<Key<words>> spare;
    put_in_order(keys, 0, spare);
    ASSERT_EQ(keys, (std::vector<Key<words>>(model.begin(), model.end())));
    writer_.begin(keys.size(), 0);
    for (const auto& key : keys) writer_.add(key);
    const KeyRun<words> run = writer_.finish(shelf_);
    ASSERT_EQ(run.size(), keys.size());
    const KeyRun<words> again({run.coded().begin(), run.coded().end()}, run.facts(), shelf_);
    std::size_t read = 0;
    for (KeyRunReader<words> reader(again, shape); !reader.at_end(); reader.advance()) {
      ASSERT_EQ(reader.key(), keys[read++]);
    }
    ASSERT_EQ(read, keys.size());
    for (int i = 0; i < 20; ++i) {
      const std::size_t to = random_() % (keys.size() + 3);
      KeyRunReader<words> reader(run, shape);
      reader.advance_to(to);
      ASSERT_EQ(reader.at_end(), to >= keys.size());
      if (to < keys.size()) {
        ASSERT_EQ(reader.key(), keys[to]);
      }
    }
    // Asked for what is there and what is not, a few of them and all.
    for (const std::size_t asked : {std::size_t{3}, count * 2}) {
      std::set<Key<words>> ascending;
      for (std::size_t i = 0; i < asked; ++i) {
        ascending.insert(i % 2 == 0 && !keys.empty()
                             ? keys[random_() % keys.size()]
                             : mixer.mix(random_key<words>(bits_, few_ + 1, random_)));
      }
      KeyRunReader<words> reader(run, shape);
      for (const auto& key : ascending) {
        ASSERT_EQ(reader.contains(key), model.contains(key));
      }
    }
    // About b - log2(n) + 1.5 bits for each, where they are spread evenly, and a place for 256.
    if (few_ >= bits_ && keys.size() >= 10'000) {
      const double n = static_cast<double>(keys.size());
      const double least = std::max(bits_ - std::log2(n), 0.0);
      EXPECT_LT(static_cast<double>(run.coded().size_bytes()) * 8 / n, least + 3) << bits_;
    }
  }

 private:
  const std::uint32_t bits_;
  const std::uint32_t few_;
  RunShelf shelf_;
  KeyRunWriter<words> writer_{KeyShape<words>(bits_)};
  std::mt19937_64 random_;
};

TEST(KeyRun, GivesBackWhatWasWritten) {
  const testing::TemporaryFolder folder;
  for (const bool in_files : {false, true}) {
    const auto files =
        in_files ? std::optional(RunShelf::Files{folder.path("runs"), 0}) : std::nullopt;
    for (const std::size_t count : {0, 1, 255, 256, 257, 3000, 20'000}) {
      for (const std::uint32_t few : {3, 9, 200}) {
        SCOPED_TRACE(count);
        for (const std::uint32_t bits : {1, 9, 16, 40, 63}) {
          Runs<1>(bits, few, files).expect_as_written(count);
        }
        for (const std::uint32_t bits : {64, 65, 84, 127}) {
          Runs<2>(bits, few, files).expect_as_written(count);
        }
        for (const std::uint32_t bits : {128, 132, 191}) {
          Runs<3>(bits, few, files).expect_as_written(count);
        }
      }
    }
  }
  EXPECT_TRUE(std::filesystem::is_empty(folder.path("runs")));  // files have no names
}

TEST(RunShelf, TellsMemoryFromFilesAndWhatGoesWrong) {
  const testing::TemporaryFolder folder;
  const std::vector<std::uint64_t> words(1000, 7);
  RunShelf shelf(RunShelf::Files{folder.path("deep/runs"), 10'000});
  {
    const RunShelf::Kept first = shelf.keep(words);
    EXPECT_EQ(shelf.bytes_in_memory(), 8000u);
    const RunShelf::Kept second = shelf.keep(words);
    EXPECT_EQ(shelf.bytes_in_memory(), 8000u);
    EXPECT_EQ(shelf.bytes_in_files(), 8000u);
    second.forget_pages();
    EXPECT_TRUE(std::ranges::equal(second.words(), words));
    EXPECT_TRUE(shelf.keep({}).words().empty());
  }
  EXPECT_EQ(shelf.bytes_in_memory(), 0u);
  EXPECT_EQ(shelf.bytes_in_files(), 0u);
  EXPECT_EQ(shelf.problem(), std::nullopt);
  RunShelf nowhere(RunShelf::Files{folder.write("file", "no folder"), 0});
  const RunShelf::Kept kept = nowhere.keep(words);
  EXPECT_TRUE(std::ranges::equal(kept.words(), words));
  EXPECT_EQ(nowhere.problem(), "Not a directory");
}

}  // namespace
}  // namespace orchard::explore::key_run_test
