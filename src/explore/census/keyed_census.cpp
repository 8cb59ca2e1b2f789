#include "explore/census/keyed_census.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "explore/census/keyed_count.hpp"
#include "explore/keys/census_codes.hpp"
#include "explore/stores/key_bitmap.hpp"

namespace orchard::explore {

namespace {

// How a count goes about it; less is expected of the game with each fault.
struct Way {
  enum class Store { sets, runs, bitmap };
  bool layers = false;  // layers are known to be disjoint
  Store store = Store::runs;
  std::uint64_t keys = 0;  // that there are at least, as sets have shown

  std::string name() const {
    const char* const names[] = {"sets", "runs", "bitmap"};
    return fmt::format("{}, {}", names[static_cast<std::size_t>(store)],
                       layers ? "layers apart" : "all kept");
  }
  static Way named(const std::string& name) {
    Way way;
    way.layers = name.ends_with("layers apart");
    way.store = name.starts_with("bitmap") ? Store::bitmap
                : name.starts_with("runs") ? Store::runs
                                           : Store::sets;
    return way;
  }
};

// Where runs go beyond half of the memory, if a folder is given.
std::optional<RunShelf::Files> files_of(const CensusOptions& options) {
  if (!options.files) return std::nullopt;
  const auto memory = options.budget.memory_bytes ? options.budget.memory_bytes : half_of_memory();
  return RunShelf::Files{*options.files, memory.value_or(0) / 2};
}

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

// While there are at most so many keys sets are best: runs take longer, and large bitmaps soon take
// all of their memory. `bytes`: of the bitmap that is to be used then, or nothing. `words`: of a
// key.
std::uint64_t few_keys(std::optional<std::uint64_t> bytes, std::size_t words,
                       const CensusOptions& options) {
  const std::uint64_t few = 3'000'000 / words;
  constexpr std::uint64_t little_memory = 512 << 20;
  constexpr std::uint64_t bytes_worth_a_key = 400;
  constexpr std::uint64_t bytes_of_sets = 128;  // for each key, at most
  if (options.store != CensusStore::automatic) return 0;
  if (bytes.value_or(0) > 0) return *bytes > little_memory ? *bytes / bytes_worth_a_key : 0;
  return std::min(few, options.budget.memory_bytes.value_or(~std::uint64_t{0}) / bytes_of_sets);
}

// A census, by one count after the other until one has no fault.
class KeyedCensus {
 public:
  KeyedCensus(const LaneGame& game, std::span<const std::uint64_t> start,
              const CensusOptions& options)
      : game_(game),
        start_(start),
        options_(options),
        budget_(without_positions(options.budget)),
        stopwatch_(budget_),
        codes_(game, start, options.symmetry) {
    const bool in_sets = options.store == CensusStore::keys || options.store == CensusStore::layers;
    way_.layers = options.store != CensusStore::keys && codes_.measure().step != 0;
    way_.store = in_sets                              ? Way::Store::sets
                 : options.store == CensusStore::runs ? Way::Store::runs
                                                      : Way::Store::bitmap;
  }

  Result<std::optional<Census>> run();

 private:
  // A number of positions ends it between layers only, so that it is the same for any threads.
  static Budget without_positions(Budget budget) {
    budget.positions.reset();
    return budget;
  }
  // One count: how, and on which keys.
  struct Attempt {
    Way way;
    CountPlan plan;
    PositionCode code;
    Renamings within;
  };
  void go_on_from(std::unique_ptr<StateReader> saved);
  Attempt next_attempt();
  Result<CountFaults> count(const Attempt& attempt, const KeyedGame& keyed, Census& census);
  template <std::size_t words>
  Result<CountFaults> count_in(std::unique_ptr<KeyStore<words>> store, const CountPlan& plan,
                               const KeyedGame& keyed, Census& census);
  template <std::size_t words>
  Result<CountFaults> count_on(const Attempt& attempt, const KeyedGame& keyed, Census& census);

  const LaneGame& game_;
  const std::span<const std::uint64_t> start_;
  const CensusOptions& options_;
  const Budget budget_;
  Stopwatch stopwatch_;
  CensusCodes codes_;
  Way way_;  // that is best as far as is known
  int attempts_ = 0;
  std::unique_ptr<StateReader> saved_;  // what the next count goes on from, and its way
  Way saved_way_;
};

void KeyedCensus::go_on_from(std::unique_ptr<StateReader> saved) {
  codes_.mend({saved->get<std::uint64_t>("mended"), saved->get<std::uint64_t>("mended at")});
  const auto kind = saved->get<char>("store");
  saved_way_ = Way::named({kind.begin(), kind.end()});
  way_.layers = saved_way_.layers;
  saved_ = std::move(saved);
}

KeyedCensus::Attempt KeyedCensus::next_attempt() {
  constexpr int most_with_bitmaps = 12;
  Attempt result;
  Way& way = result.way;
  result.code = codes_.apart();
  result.within = codes_.renamings(result.code);
  way = saved_ ? saved_way_ : way_;
  std::optional<PositionCode> joined;
  std::optional<std::uint64_t> bytes;
  const bool in_bitmap = way.store == Way::Store::bitmap || way_.store == Way::Store::bitmap;
  if (attempts_++ < most_with_bitmaps && in_bitmap) joined = codes_.joined(way.layers);
  if (way_.store == Way::Store::bitmap) {
    if (joined) bytes = bitmap_bytes(*joined, result.within, way.layers, options_);
    if (!bytes) way_.store = Way::Store::runs;
  }
  if (!saved_) way.store = way_.store;
  const std::uint64_t few =
      few_keys(way_.store == Way::Store::bitmap ? bytes : 0, result.code.words(), options_);
  if (few > 0 && way_.keys <= few && (!saved_ || way.store == Way::Store::sets)) {
    result.plan.most_keys = few;
    way.store = Way::Store::sets;
  }
  if (way.store == Way::Store::bitmap) {
    result.code = std::move(joined).value();
    result.within.clear();
  }
  result.plan.name = way.name();
  return result;
}

template <std::size_t words>
Result<CountFaults> KeyedCensus::count_in(std::unique_ptr<KeyStore<words>> store,
                                          const CountPlan& plan, const KeyedGame& keyed,
                                          Census& census) {
  auto faults = count_on_keys(keyed, *store, start_, options_, stopwatch_, codes_.mended(), plan,
                              saved_.get(), census);
  const std::size_t alike = keyed.renamings().size() + 1;
  census.store = fmt::format("keys of {} bits{}, {}", keyed.code().bits,
                             alike == 1 ? "" : fmt::format(", one for up to {} alike", alike),
                             store->words_for_it());
  return faults;
}

template <std::size_t words>
Result<CountFaults> KeyedCensus::count_on(const Attempt& attempt, const KeyedGame& keyed,
                                          Census& census) {
  const std::size_t workers = std::max(1u, options_.threads);
  std::unique_ptr<KeyStore<words>> store;
  if (attempt.way.store == Way::Store::sets) {
    store = make_set_store<words>(keyed, attempt.way.layers, workers);
  } else {
    store = make_run_store<words>(
        keyed, {attempt.way.layers, false, options_.budget.memory_bytes, files_of(options_)},
        workers);
  }
  return count_in(std::move(store), attempt.plan, keyed, census);
}

Result<CountFaults> KeyedCensus::count(const Attempt& attempt, const KeyedGame& keyed,
                                       Census& census) {
  if (attempt.way.store == Way::Store::bitmap) {
    auto bitmap = make_bitmap_store(keyed, std::max(1u, options_.threads));
    if (bitmap) return count_in(std::move(bitmap), attempt.plan, keyed, census);
    CountFaults faults;
    faults.no_room = true;
    return faults;
  }
  const std::size_t words = keyed.code().words();
  return words == 1   ? count_on<1>(attempt, keyed, census)
         : words == 2 ? count_on<2>(attempt, keyed, census)
                      : count_on<3>(attempt, keyed, census);
}

Result<std::optional<Census>> KeyedCensus::run() {
  if (options_.budget.checkpoint) {
    auto opened = StateReader::open(options_.budget.checkpoint->folder, "keys",
                                    counted_state(game_, start_, options_));
    if (!opened) return opened.diagnostics();
    if (*opened) go_on_from(std::move(opened).value());
  }
  constexpr int most_attempts = 200;
  while (attempts_ < most_attempts) {
    Attempt attempt = next_attempt();
    const auto keyed = KeyedGame::make(game_, std::move(attempt.code),
                                       attempt.way.layers ? codes_.measure() : Measure{},
                                       std::move(attempt.within));
    if (!keyed || !keyed->code().key(start_)) return std::optional<Census>();
    Census census;
    const auto faults = count(attempt, *keyed, census);
    if (!faults) return faults.diagnostics();
    saved_.reset();
    if (faults->joint_moves) return std::optional<Census>();
    if (!faults->any()) {
      census.seconds = stopwatch_.seconds();
      return std::optional(std::move(census));
    }
    if (faults->no_room) way_.store = Way::Store::runs;
    way_.keys = std::max(way_.keys, faults->outgrown_by);
    if (faults->measure) way_.layers = false;
    codes_.mend(faults->unwritable);
  }
  return std::optional<Census>();
}

}  // namespace

Result<std::optional<Census>> keyed_census(const LaneGame& game,
                                           std::span<const std::uint64_t> start,
                                           const CensusOptions& options) {
  if (!KeyedGame::can_be_made(game)) return std::optional<Census>();
  return KeyedCensus(game, start, options).run();
}

}  // namespace orchard::explore
