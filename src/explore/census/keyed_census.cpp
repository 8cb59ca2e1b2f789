#include "explore/census/keyed_census.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "explore/census/keyed_count.hpp"
#include "explore/keys/census_codes.hpp"

namespace orchard::explore {

namespace {

// Where runs go beyond half of the memory, if a folder is given.
std::optional<RunShelf::Files> files_of(const CensusOptions& options) {
  if (!options.files) return std::nullopt;
  const auto memory = options.budget.memory_bytes ? options.budget.memory_bytes : half_of_memory();
  return RunShelf::Files{*options.files, memory.value_or(0) / 2};
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
    facts_.asked = options.store;
    facts_.layers_apart = codes_.measure().step != 0;
    facts_.memory = options.budget.memory_bytes ? options.budget.memory_bytes : half_of_memory();
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
    StoragePlan plan;
    PositionCode code;
    Renamings within;
  };
  void go_on_from(std::unique_ptr<StateReader> saved);
  Attempt next_attempt(int number);
  Result<CountFaults> count(const Attempt& attempt, const KeyedGame& keyed, Census& census);
  template <std::size_t words>
  Result<CountFaults> count_in(std::unique_ptr<KeyStore<words>> store, const StoragePlan& plan,
                               const KeyedGame& keyed, Census& census);
  template <std::size_t words>
  Result<CountFaults> count_on(const Attempt& attempt, const KeyedGame& keyed, Census& census);

  const LaneGame& game_;
  const std::span<const std::uint64_t> start_;
  const CensusOptions& options_;
  const Budget budget_;
  Stopwatch stopwatch_;
  CensusCodes codes_;
  StorageFacts facts_;                  // as far as is known
  std::unique_ptr<StateReader> saved_;  // what the next count goes on from …
  StoragePlan saved_plan_;              // … and how
};

void KeyedCensus::go_on_from(std::unique_ptr<StateReader> saved) {
  codes_.mend({saved->get<std::uint64_t>("mended"), saved->get<std::uint64_t>("mended at")});
  saved_plan_ = StoragePlan::of_numbers(saved->get<std::uint64_t>("plan"));
  facts_.layers_apart = saved_plan_.layers;
  saved_ = std::move(saved);
}

KeyedCensus::Attempt KeyedCensus::next_attempt(int number) {
  constexpr int most_with_bitmaps = 12;
  using Store = StoragePlan::Store;
  Attempt result;
  result.code = codes_.apart();
  result.within = codes_.renamings(result.code);
  facts_.alike = result.within.size() + 1;
  facts_.words = result.code.words();
  facts_.joined_bits.reset();
  std::optional<PositionCode> joined;
  if (number < most_with_bitmaps) joined = codes_.joined(facts_.layers_apart);
  if (joined) facts_.joined_bits = joined->bits;
  result.plan = plan_storage(facts_);
  if (saved_) {
    // As it was begun; sets grow only as far as they would have.
    const auto most_keys = saved_plan_.store == Store::sets ? result.plan.most_keys : std::nullopt;
    result.plan = saved_plan_;
    result.plan.most_keys = most_keys;
  }
  if (result.plan.store == Store::bitmap) {
    result.code = std::move(joined).value();
    result.within.clear();
  }
  return result;
}

template <std::size_t words>
Result<CountFaults> KeyedCensus::count_in(std::unique_ptr<KeyStore<words>> store,
                                          const StoragePlan& plan, const KeyedGame& keyed,
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
  if (attempt.plan.store == StoragePlan::Store::sets) {
    store = make_set_store<words>(keyed, attempt.plan.layers, workers);
  } else {
    store = make_run_store<words>(
        keyed, {attempt.plan.layers, false, options_.budget.memory_bytes, files_of(options_)},
        workers);
  }
  return count_in(std::move(store), attempt.plan, keyed, census);
}

Result<CountFaults> KeyedCensus::count(const Attempt& attempt, const KeyedGame& keyed,
                                       Census& census) {
  if (attempt.plan.store == StoragePlan::Store::bitmap) {
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
  using Counted = Result<std::optional<Census>>;
  const auto counted = codes_.mend_until_it_fits<Counted>(most_attempts, [&](int number) {
    Attempted<Counted> outcome;
    Attempt attempt = next_attempt(number);
    const auto keyed = KeyedGame::make(game_, std::move(attempt.code),
                                       attempt.plan.layers ? codes_.measure() : Measure{},
                                       std::move(attempt.within));
    outcome.given_up = !keyed || !keyed->code().key(start_);
    if (outcome.given_up) return outcome;
    Census census;
    auto faults = count(attempt, *keyed, census);
    if (!faults) {
      outcome.result = faults.diagnostics();
      return outcome;
    }
    saved_.reset();
    outcome.given_up = faults->joint_moves;
    if (!faults->any()) {
      census.seconds = stopwatch_.seconds();
      outcome.result = std::optional(std::move(census));
    }
    facts_.no_room_for_bits = facts_.no_room_for_bits || faults->no_room;
    facts_.keys = std::max(facts_.keys, faults->outgrown_by);
    facts_.layers_apart = facts_.layers_apart && !faults->measure;
    outcome.unwritable = std::move(faults->unwritable);
    return outcome;
  });
  return counted ? *counted : Counted(std::optional<Census>());
}

}  // namespace

Result<std::optional<Census>> keyed_census(const LaneGame& game,
                                           std::span<const std::uint64_t> start,
                                           const CensusOptions& options) {
  if (!KeyedGame::can_be_made(game)) return std::optional<Census>();
  return KeyedCensus(game, start, options).run();
}

}  // namespace orchard::explore
