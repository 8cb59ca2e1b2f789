#include "explore/keyed_census.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "explore/census_codes.hpp"
#include "explore/key_bitmap.hpp"
#include "explore/keyed_count.hpp"

namespace orchard::explore {

namespace {

// How a count goes about it; less is expected of the game with each fault.
struct Way {
  bool layers = false;  // layers are known to be disjoint
  bool bitmap = false;
  std::uint64_t keys = 0;  // that there are at least, as sets have shown

  std::string name() const {
    return fmt::format("{}, {}", bitmap ? "bitmap" : "sets", layers ? "layers apart" : "all kept");
  }
  static Way named(const std::string& name) {
    return {name.ends_with("layers apart"), name.starts_with("bitmap"), 0};
  }
};

// How much memory the bitmaps of a code may come to; none if it has too many bits, or there is not
// as much. A bitmap of all positions is slower than sets of a few of them that stand for many.
std::optional<std::uint64_t> bitmap_bytes(const PositionCode& code, const Renamings& renamings,
                                          bool layers, const CensusOptions& options) {
  constexpr std::size_t many_alike = 4;
  if (code.bits > KeyBitmap::most_bits) return std::nullopt;
  const std::uint64_t bytes = (std::uint64_t{1} << code.bits) / 8 * (layers ? 1 : 3);
  if (options.store == CensusStore::bitmap) return bytes;
  const auto memory = options.budget.memory_bytes ? options.budget.memory_bytes : half_of_memory();
  const bool fits = renamings.size() + 1 < many_alike && (!memory || bytes <= *memory);
  return fits ? std::optional(bytes) : std::nullopt;
}

}  // namespace

Result<std::optional<Census>> keyed_census(const LaneGame& game,
                                           std::span<const std::uint64_t> start,
                                           const CensusOptions& options) {
  if (!KeyedGame::can_be_made(game)) return std::optional<Census>();
  // A number of positions ends it between layers only, so that it is the same for any threads.
  Budget budget = options.budget;
  budget.positions.reset();
  Stopwatch stopwatch(budget);
  CensusCodes codes(game, start, options.symmetry);
  std::unique_ptr<StateReader> saved;
  if (options.budget.checkpoint) {
    auto opened = StateReader::open(options.budget.checkpoint->folder, "keys",
                                    counted_state(game, start, options));
    if (!opened) return opened.diagnostics();
    saved = std::move(opened).value();
  }
  Way way;
  way.layers = options.store != CensusStore::keys && codes.measure().step != 0;
  way.bitmap = options.store == CensusStore::automatic || options.store == CensusStore::bitmap;
  if (saved) {
    codes.mend({saved->get<std::uint64_t>("mended"), saved->get<std::uint64_t>("mended at")});
    const auto kind = saved->get<char>("store");
    way = Way::named({kind.begin(), kind.end()});
  }
  constexpr int most_attempts = 200;
  constexpr int most_with_bitmaps = 12;
  constexpr std::uint64_t little_memory = 512 << 20;
  constexpr std::uint64_t bytes_worth_a_key = 400;
  for (int attempt = 0; attempt < most_attempts; ++attempt) {
    PositionCode code = codes.apart();
    Renamings within = codes.renamings(code);
    CountPlan plan;
    if (way.bitmap) {
      auto joined = attempt < most_with_bitmaps ? codes.joined(way.layers) : std::nullopt;
      const auto bytes = joined ? bitmap_bytes(*joined, within, way.layers, options) : std::nullopt;
      way.bitmap = joined && (saved || bytes);
      // Large bitmaps soon take all of their memory: sets show first that positions are many.
      const std::uint64_t worth = bytes ? *bytes / bytes_worth_a_key : 0;
      if (bytes && *bytes > little_memory && way.keys <= worth && !saved &&
          options.store != CensusStore::bitmap) {
        plan.most_keys = worth;
      } else if (way.bitmap) {
        code = std::move(*joined);
        within.clear();
      }
    }
    const bool in_bitmap = way.bitmap && !plan.most_keys;
    plan.name = Way{way.layers, in_bitmap, 0}.name();
    const std::size_t alike = within.size() + 1;
    const auto keyed = KeyedGame::make(game, std::move(code),
                                       way.layers ? codes.measure() : Measure{}, std::move(within));
    if (!keyed || !keyed->code().key(start)) return std::optional<Census>();
    Census census;
    const std::size_t workers = std::max(1u, options.threads);
    std::string kept;
    const auto count_with = [&]<std::size_t words>(std::unique_ptr<KeyStore<words>> store) {
      kept = store->words_for_it();
      return count_on_keys(*keyed, *store, start, options, stopwatch, codes.mended(), plan,
                           saved.get(), census);
    };
    std::unique_ptr<KeyStore<1>> bitmap;
    if (in_bitmap) bitmap = make_bitmap_store(*keyed, workers);
    if (in_bitmap && !bitmap) {
      way.bitmap = false;
      continue;
    }
    const std::size_t words = keyed->code().words();
    const auto faults = bitmap       ? count_with(std::move(bitmap))
                        : words == 1 ? count_with(make_set_store<1>(*keyed, way.layers, workers))
                        : words == 2 ? count_with(make_set_store<2>(*keyed, way.layers, workers))
                                     : count_with(make_set_store<3>(*keyed, way.layers, workers));
    if (!faults) return faults.diagnostics();
    saved.reset();
    if (faults->joint_moves) return std::optional<Census>();
    if (!faults->any()) {
      census.seconds = stopwatch.seconds();
      census.store =
          fmt::format("keys of {} bits{}, {}", keyed->code().bits,
                      alike == 1 ? "" : fmt::format(", one for up to {} alike", alike), kept);
      return std::optional(std::move(census));
    }
    way.keys = std::max(way.keys, faults->outgrown_by);
    if (faults->measure) way.layers = false;
    codes.mend(faults->unwritable);
  }
  return std::optional<Census>();
}

}  // namespace orchard::explore
