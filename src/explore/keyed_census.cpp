#include "explore/keyed_census.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "explore/code_joiner.hpp"
#include "explore/key_bitmap.hpp"
#include "explore/keyed_count.hpp"
#include "explore/renamings.hpp"
#include "explore/sampled_games.hpp"

namespace orchard::explore {

namespace {

// Finds codes for a game from random games, and mends them.
class CensusCodes {
 public:
  CensusCodes(const LaneGame& game, std::span<const std::uint64_t> start, bool symmetry)
      : game_(game),
        renamings_(symmetry ? renamings_of(game, start) : Renamings{}),
        finder_(game.ground()),
        joiner_(game) {
    sample(start);
  }

  const Measure& measure() const { return measure_; }
  const MendedRows& mended() const { return mended_; }
  void mend(std::span<const std::uint64_t> row, std::uint64_t depth) {
    show(row);
    joiner_.observe(row, depth);
    mended_.rows.insert(mended_.rows.end(), row.begin(), row.end());
    mended_.depths.push_back(depth);
  }
  // Groups of fluents of which one holds at most, and the renamings that keep it.
  PositionCode apart() const { return finder_.code(); }
  Renamings renamings(const PositionCode& code) const {
    return keeps_code(code, renamings_) ? renamings_within(renamings_, code) : Renamings{};
  }
  // Groups that hang together.
  std::optional<PositionCode> joined(bool layers) const {
    return joiner_.joined(apart(), layers ? measure_ : Measure{});
  }

 private:
  void show(std::span<const std::uint64_t> row) {
    finder_.observe(row);
    for (const auto& renaming : renamings_) finder_.observe(renamed(row, renaming));
  }
  void sample(std::span<const std::uint64_t> start);

  const LaneGame& game_;
  const Renamings renamings_;
  CodeFinder finder_;
  CodeJoiner joiner_;
  Measure measure_;
  MendedRows mended_;
};

void CensusCodes::sample(std::span<const std::uint64_t> start) {
  constexpr std::size_t most_plies = 400;
  constexpr std::size_t enough_rows = 20'000;
  MeasureFinder measures(game_.ground());
  SampledGames samples(game_);
  Random random(1);
  std::size_t seen = 0;
  for (int batch = 0; batch < 8 && seen < enough_rows; ++batch) {
    samples.play(LaneEvaluator::most, start, random, most_plies,
                 [&](std::span<const std::uint64_t> rows,
                     std::span<const SampledGames::Place> places, const LaneEvaluator& lanes) {
                   for (std::size_t at = 0; at < places.size(); ++at) {
                     const auto row = rows.subspan(at * lanes.words(), lanes.words());
                     show(row);
                     measures.observe(row, places[at].ply);
                     joiner_.observe(row, places[at].ply);
                   }
                   seen += places.size();
                 });
  }
  measure_ = measures.measure();
}

// How a count goes about it; less is expected of the game with each fault.
struct Way {
  bool layers = false;  // layers are known to be disjoint
  bool bitmap = false;

  std::string name() const {
    return fmt::format("{}, {}", bitmap ? "bitmap" : "sets", layers ? "layers apart" : "all kept");
  }
  static Way named(const std::string& name) {
    return {name.ends_with("layers apart"), name.starts_with("bitmap")};
  }
};

// The key of fewer bits pays only where a class of alike positions has few of them.
bool bitmap_fits(const PositionCode& joined, const Renamings& renamings, bool layers,
                 const CensusOptions& options) {
  constexpr std::size_t many_alike = 4;
  if (joined.bits > KeyBitmap::most_bits) return false;
  if (options.store == CensusStore::bitmap) return true;
  const std::uint64_t bytes = (std::uint64_t{1} << joined.bits) / 8 * (layers ? 1 : 3);
  const auto memory = options.budget.memory_bytes ? options.budget.memory_bytes : half_of_memory();
  return renamings.size() + 1 < many_alike && (!memory || bytes <= *memory);
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
    const auto rows = saved->get<std::uint64_t>("mended");
    const auto depths = saved->get<std::uint64_t>("mended at");
    for (std::size_t i = 0; i < depths.size(); ++i) {
      codes.mend(std::span(rows).subspan(i * start.size(), start.size()), depths[i]);
    }
    const auto kind = saved->get<char>("store");
    way = Way::named({kind.begin(), kind.end()});
  }
  constexpr int most_attempts = 200;
  constexpr int most_with_bitmaps = 12;
  for (int attempt = 0; attempt < most_attempts; ++attempt) {
    PositionCode code = codes.apart();
    Renamings within = codes.renamings(code);
    if (way.bitmap) {
      auto joined = attempt < most_with_bitmaps ? codes.joined(way.layers) : std::nullopt;
      way.bitmap = joined && (saved || bitmap_fits(*joined, within, way.layers, options));
      if (way.bitmap) code = std::move(*joined);
      if (way.bitmap) within.clear();
    }
    const std::size_t alike = within.size() + 1;
    const auto keyed = KeyedGame::make(game, std::move(code),
                                       way.layers ? codes.measure() : Measure{}, std::move(within));
    if (!keyed || !keyed->code().key(start)) return std::optional<Census>();
    Census census;
    const std::size_t workers = std::max(1u, options.threads);
    std::string kept;
    const auto count_with = [&]<std::size_t words>(std::unique_ptr<KeyStore<words>> store) {
      kept = store->words_for_it();
      return count_on_keys(*keyed, *store, start, options, stopwatch, codes.mended(), way.name(),
                           saved.get(), census);
    };
    std::unique_ptr<KeyStore<1>> bitmap;
    if (way.bitmap) bitmap = make_bitmap_store(*keyed, workers);
    if (way.bitmap && !bitmap) {
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
    if (faults->wasteful) way.bitmap = false;
    if (faults->measure) way.layers = false;
    if (faults->row) codes.mend(*faults->row, faults->depth);
  }
  return std::optional<Census>();
}

}  // namespace orchard::explore
