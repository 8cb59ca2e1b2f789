#include <fmt/core.h>

#include "explore/stores/block_workers.hpp"
#include "circuit/lanes/pieces.hpp"
#include "explore/stores/key_run.hpp"

namespace orchard::explore {

namespace {

// So many bytes of keys are found before they are put in order: the more there are, the fewer times
// runs are put together; but at most a tenth of what the runs take.
constexpr std::uint64_t fewest_found_bytes = 16 << 20;
constexpr std::uint64_t most_found_bytes = 512 << 20;

template <std::size_t words>
class RunStore : public KeptLayers<words> {
 public:
  using OneKey = Key<words>;
  using Keys = std::vector<OneKey>;
  using Run = KeyRun<words>;
  using Reader = KeyRunReader<words>;
  using Visit = typename KeptLayers<words>::Visit;

  RunStore(const KeyedGame& game, RunPlan plan, std::size_t workers)
      : plan_(std::move(plan)),
        mixer_(game.code().bits),
        shape_(game.code().bits),
        shelf_(plan_.files) {
    for (std::size_t w = 0; w < workers; ++w) workers_.emplace_back(game, mixer_, shape_);
  }

  std::string words_for_it() const override {
    return fmt::format("in coded runs{}, {}", used_files_ ? ", partly in files" : "",
                       plan_.apart ? "two layers at a time" : "all layers");
  }
  void begin(const OneKey& start) override { workers_[0].found.add({&start, 1}); }
  void enter_next_layer(Crew& crew) override;
  bool expand_some(Crew& crew, std::uint64_t depth, bool goes_on,
                   std::span<LayerWorker> workers) override;
  bool is_full() const override { return found_by(workers_) >= most_found(); }
  void collect(Crew& crew) override;
  std::uint64_t surely_reached() const override {
    return std::ranges::all_of(parts_, &Part::settled) ? reached() : before_;
  }
  std::optional<std::string> problem() const override { return shelf_.problem(); }
  std::uint64_t reached() const override;
  std::uint64_t bytes() const override;
  std::uint64_t bytes_in_files() const override { return shelf_.bytes_in_files(); }
  void save(StateWriter& writer) const override;
  void load(StateReader& saved) override;
  SignalCounts seen() const override { return seen_by(workers_); }
  void visit_layer(std::uint64_t depth, const Visit& visit) const override;

 private:
  struct Worker : BlockWorker<words> {
    Worker(const KeyedGame& game, const KeyMixer<words>& mixer, const KeyShape<words>& shape)
        : BlockWorker<words>(game, mixer), writer(shape) {}
    KeyRunWriter<words> writer;
    Keys gathered;  // of a part, from all workers
    Keys spare;
  };
  // Of one part: what was found for the layer being entered, a run for each time it was collected
  // and these put together as they grow; whether nothing is in it twice, or of a layer before; and
  // the layers before the one being left.
  struct Part {
    std::vector<Run> next;
    bool settled = true;
    std::vector<Run> earlier;
  };
  using Layer = std::vector<Run>;  // by part

  // Keys that are found before they are collected.
  std::uint64_t most_found() const {
    const std::uint64_t most = std::min(most_found_bytes, plan_.memory.value_or(~0ull) / 8);
    const std::uint64_t worth = std::max(shelf_.bytes_in_memory() / 10, fewest_found_bytes);
    return std::min(worth, most) / sizeof(OneKey);
  }
  void settle(Crew& crew);
  Run merged(std::span<const Run> runs, std::span<const Run* const> without, Worker& by);
  void tidy(std::vector<Run>& runs, std::size_t together, Worker& by);
  void gather();

  const RunPlan plan_;
  const KeyMixer<words> mixer_;
  const KeyShape<words> shape_;
  RunShelf shelf_;  // before whatever it keeps
  bool used_files_ = false;
  std::vector<Worker> workers_;
  std::array<Part, key_parts> parts_;
  std::vector<Layer> layers_;  // the one being left, and if they stay those before it
  std::uint64_t before_ = 0;   // keys up to the layer being left
  // What was gathered of the layer being left.
  std::size_t taken_part_ = 0;
  std::uint64_t taken_ = 0;
  std::optional<Reader> reader_;
  std::vector<Keys> blocks_;
};

// The keys of some runs, each once, but for those of others.
template <std::size_t words>
KeyRun<words> RunStore<words>::merged(std::span<const Run> runs,
                                      std::span<const Run* const> without, Worker& by) {
  std::vector<Reader> readers;
  std::uint64_t keys = 0;
  for (const Run& run : runs) {
    if (run.empty()) continue;
    readers.emplace_back(run, shape_);
    keys += run.size();
  }
  std::vector<Reader> others;
  for (const Run* const run : without) others.emplace_back(*run, shape_);
  by.writer.begin(keys, key_part_bits);
  while (!readers.empty()) {
    std::size_t least = 0;
    for (std::size_t r = 1; r < readers.size(); ++r) {
      if (key_before(readers[r].key(), readers[least].key())) least = r;
    }
    const OneKey key = readers[least].key();
    for (std::size_t r = readers.size(); r-- > 0;) {
      if (!same_key(readers[r].key(), key)) continue;
      readers[r].advance();
      if (readers[r].at_end()) {
        std::swap(readers[r], readers.back());
        readers.pop_back();
      }
    }
    bool known = false;
    for (Reader& other : others) known = known || other.contains(key);
    if (!known) by.writer.add(key);
  }
  for (const Run* const run : without) run->forget_pages();
  return by.writer.finish(shelf_);
}

// Puts so many of the last runs together, while they are of about one length: few of them, and each
// key is in as many mergers as their number grows by that factor.
template <std::size_t words>
void RunStore<words>::tidy(std::vector<Run>& runs, std::size_t together, Worker& by) {
  while (runs.size() >= together &&
         runs[runs.size() - together].size() < together * runs.back().size()) {
    Run all = merged(std::span<const Run>(runs).last(together), {}, by);
    runs.resize(runs.size() - together);
    runs.push_back(std::move(all));
  }
}

template <std::size_t words>
void RunStore<words>::collect(Crew& crew) {
  crew.work(key_parts, [&](std::size_t number, std::size_t p) {
    Worker& by = workers_[number];
    by.gathered.clear();
    for (Worker& worker : workers_) {
      Keys& keys = worker.found[p];
      by.gathered.insert(by.gathered.end(), keys.begin(), keys.end());
      keys.clear();
    }
    if (by.gathered.empty()) return;
    put_in_order(by.gathered, key_part_bits, by.spare);
    by.writer.begin(by.gathered.size(), key_part_bits);
    for (const OneKey& key : by.gathered) by.writer.add(key);
    Part& part = parts_[p];
    part.next.push_back(by.writer.finish(shelf_));
    part.settled = false;
    tidy(part.next, 4, by);
  });
  for (Worker& worker : workers_) worker.found.make_room(most_found() / workers_.size());
  used_files_ = used_files_ || shelf_.bytes_in_files() > 0;
}

template <std::size_t words>
void RunStore<words>::settle(Crew& crew) {
  crew.work(key_parts, [&](std::size_t number, std::size_t p) {
    Part& part = parts_[p];
    if (part.settled) return;
    std::vector<const Run*> known;
    if (!plan_.apart) {
      for (const Run& run : part.earlier) known.push_back(&run);
      if (!layers_.empty()) known.push_back(&layers_.back()[p]);
    }
    if (part.next.size() > 1 || !known.empty()) {
      Run all = merged(part.next, known, workers_[number]);
      part.next.clear();
      part.next.push_back(std::move(all));
    }
    part.settled = true;
  });
}

template <std::size_t words>
void RunStore<words>::enter_next_layer(Crew& crew) {
  collect(crew);
  settle(crew);
  before_ = reached();
  taken_part_ = 0;
  taken_ = 0;
  reader_.reset();
  for (Worker& worker : workers_) worker.expander.forget_seen();
  if (!plan_.apart && !layers_.empty()) {
    crew.work(key_parts, [&](std::size_t number, std::size_t p) {
      Run& left = layers_.back()[p];
      std::vector<Run>& earlier = parts_[p].earlier;
      earlier.push_back(plan_.keeps ? merged({&left, 1}, {}, workers_[number]) : std::move(left));
      tidy(earlier, 2, workers_[number]);
    });
  }
  if (!plan_.keeps) layers_.clear();
  Layer& layer = layers_.emplace_back(key_parts);
  for (std::size_t p = 0; p < key_parts; ++p) {
    if (parts_[p].next.empty()) continue;
    layer[p] = std::move(parts_[p].next.front());
    parts_[p].next.clear();
  }
}

// The next keys of the layer, if some are left.
template <std::size_t words>
void RunStore<words>::gather() {
  // What is found at once must not go far beyond what is to be.
  constexpr std::uint64_t memory_of_a_block = 1 << 20;
  const std::size_t most_blocks = std::clamp<std::uint64_t>(
      plan_.memory.value_or(~std::uint64_t{0}) / memory_of_a_block, 1, 32);
  blocks_.clear();
  auto gathered = circuit::gathered<Key<words>>([&](std::span<const Key<words>> keys) {
    blocks_.emplace_back(keys.begin(), keys.end());
    return blocks_.size() < most_blocks;
  });
  for (; taken_part_ < key_parts; ++taken_part_, taken_ = 0) {
    const Run& run = layers_.back()[taken_part_];
    if (!reader_) {
      reader_.emplace(run, shape_);
      reader_->advance_to(taken_);
    }
    while (!reader_->at_end()) {
      const Key<words> key = mixer_.unmix(reader_->key());
      reader_->advance();
      ++taken_;
      if (!gathered.add(key)) return;
    }
    run.forget_pages();
    reader_.reset();
  }
  gathered.finish();
}

template <std::size_t words>
bool RunStore<words>::expand_some(Crew& crew, std::uint64_t depth, bool goes_on,
                                  std::span<LayerWorker> workers) {
  gather();
  if (blocks_.empty()) {
    collect(crew);
    settle(crew);
    return false;
  }
  expand_blocks<words>(crew, blocks_, workers_, workers, depth, goes_on);
  return true;
}

template <std::size_t words>
std::uint64_t RunStore<words>::reached() const {
  std::uint64_t result = before_;
  for (const Part& part : parts_) {
    for (const Run& run : part.next) result += run.size();
  }
  return result;
}

template <std::size_t words>
std::uint64_t RunStore<words>::bytes() const {
  return shelf_.bytes_in_memory() + bytes_found_by(workers_);
}

template <std::size_t words>
void RunStore<words>::visit_layer(std::uint64_t depth, const Visit& visit) const {
  auto gathered = circuit::gathered<Key<words>>(visit);
  for (const Run& run : layers_.at(depth)) {
    for (Reader reader(run, shape_); !reader.at_end(); reader.advance()) {
      if (!gathered.add(mixer_.unmix(reader.key()))) return;
    }
    run.forget_pages();
  }
  gathered.finish();
}

template <std::size_t words>
void put_runs(StateWriter& writer, const std::string& name, std::span<const KeyRun<words>> runs) {
  std::vector<std::uint64_t> facts;
  for (const KeyRun<words>& run : runs) {
    for (const std::uint64_t fact : run.facts()) facts.push_back(fact);
  }
  writer.put(name, facts);
  for (std::size_t r = 0; r < runs.size(); ++r) {
    writer.put(fmt::format("{} {}", name, r), runs[r].coded());
  }
}

template <std::size_t words>
std::vector<KeyRun<words>> get_runs(StateReader& saved, const std::string& name, RunShelf& shelf) {
  const auto facts = saved.get<std::uint64_t>(name);
  std::vector<KeyRun<words>> result;
  for (std::size_t r = 0; r * 3 < facts.size(); ++r) {
    const auto coded = saved.get<std::uint64_t>(fmt::format("{} {}", name, r));
    result.emplace_back(coded, std::array{facts[r * 3], facts[r * 3 + 1], facts[r * 3 + 2]}, shelf);
  }
  return result;
}

template <std::size_t words>
void RunStore<words>::save(StateWriter& writer) const {
  writer.put("runs", std::vector<std::uint64_t>{before_, taken_part_, taken_, layers_.size()});
  for (std::size_t p = 0; p < key_parts; ++p) {
    put_runs<words>(writer, fmt::format("next {}", p), parts_[p].next);
    put_runs<words>(writer, fmt::format("earlier {}", p), parts_[p].earlier);
  }
  for (std::size_t l = 0; l < layers_.size(); ++l) {
    put_runs<words>(writer, fmt::format("layer {}", l), layers_[l]);
  }
}

template <std::size_t words>
void RunStore<words>::load(StateReader& saved) {
  const auto at = saved.get<std::uint64_t>("runs");
  before_ = at.at(0);
  taken_part_ = at.at(1);
  taken_ = at.at(2);
  for (std::size_t p = 0; p < key_parts; ++p) {
    parts_[p].next = get_runs<words>(saved, fmt::format("next {}", p), shelf_);
    parts_[p].earlier = get_runs<words>(saved, fmt::format("earlier {}", p), shelf_);
    parts_[p].settled = false;
  }
  for (std::size_t l = 0; l < at.at(3); ++l) {
    layers_.push_back(get_runs<words>(saved, fmt::format("layer {}", l), shelf_));
  }
}

}  // namespace

template <std::size_t words>
std::unique_ptr<KeptLayers<words>> make_run_store(const KeyedGame& game, RunPlan plan,
                                                  std::size_t workers) {
  return std::make_unique<RunStore<words>>(game, std::move(plan), workers);
}

template std::unique_ptr<KeptLayers<1>> make_run_store(const KeyedGame&, RunPlan, std::size_t);
template std::unique_ptr<KeptLayers<2>> make_run_store(const KeyedGame&, RunPlan, std::size_t);
template std::unique_ptr<KeptLayers<3>> make_run_store(const KeyedGame&, RunPlan, std::size_t);

}  // namespace orchard::explore
