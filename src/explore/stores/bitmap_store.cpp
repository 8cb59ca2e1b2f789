#include <fmt/core.h>

#include <atomic>

#include "explore/stores/bitmap_writer.hpp"
#include "circuit/lanes/pieces.hpp"
#include "explore/stores/key_ranks.hpp"
#include "explore/stores/key_sought.hpp"
#include "explore/stores/key_store.hpp"

namespace orchard::explore {

namespace {

constexpr std::size_t pages_saved_together = 4096;
constexpr std::uint64_t enough_reached = 500'000;  // to look at budgets

// Words that are not zero, by the number of their page among so many and their place in it.
void save_map(StateWriter& writer, const std::string& name, const KeyBitmap& map) {
  const std::vector<std::uint64_t> pages = map.pages();
  writer.put(name + " pages", pages);
  std::vector<std::uint32_t> numbers;
  std::vector<std::uint64_t> words;
  for (std::size_t first = 0; first < pages.size(); first += pages_saved_together) {
    numbers.clear();
    words.clear();
    const std::size_t end = std::min(first + pages_saved_together, pages.size());
    for (std::size_t i = first; i < end; ++i) {
      const auto page = map.page(pages[i]);
      for (std::size_t w = 0; w < page.size(); ++w) {
        if (page[w] == 0) continue;
        numbers.push_back(static_cast<std::uint32_t>((i - first) * page.size() + w));
        words.push_back(page[w]);
      }
    }
    writer.put(fmt::format("{} numbers {}", name, first), numbers);
    writer.put(fmt::format("{} words {}", name, first), words);
  }
}

void load_map(StateReader& saved, const std::string& name, KeyBitmap& map) {
  const auto pages = saved.get<std::uint64_t>(name + " pages");
  for (std::size_t first = 0; first < pages.size(); first += pages_saved_together) {
    const auto numbers = saved.get<std::uint32_t>(fmt::format("{} numbers {}", name, first));
    const auto words = saved.get<std::uint64_t>(fmt::format("{} words {}", name, first));
    for (std::size_t i = 0; i < numbers.size(); ++i) {
      map.put_word(pages.at(first + numbers[i] / KeyBitmap::page_words),
                   numbers[i] % KeyBitmap::page_words, words.at(i));
    }
  }
}

template <class Take>
void each_key(std::uint64_t first, std::uint64_t word, Take take) {
  for (; word != 0; word &= word - 1) {
    take(Key<1>{first + static_cast<std::uint64_t>(std::countr_zero(word))});
  }
}

// What both kinds of bitmaps do: work through the pages of a layer. `Face`: what the store is.
template <class Face>
class BitmapStore : public Face {
 public:
  BitmapStore(const KeyedGame& game, KeyBitmap& next, const KeyBitmap* reached, std::size_t workers)
      : owners_(workers) {
    for (std::size_t w = 0; w < workers; ++w) {
      workers_.emplace_back(game, BitmapWriter(next, reached, owners_, w));
    }
  }

  bool expand_some(Crew& crew, std::uint64_t depth, bool goes_on,
                   std::span<LayerWorker> workers) override;
  SignalCounts seen() const override {
    SignalCounts result;
    for (const Worker& worker : workers_) result.add(worker.expander.seen());
    return result;
  }
  bool is_full() const override { return reached() - looked_at_ >= enough_reached; }
  void collect(Crew&) override { looked_at_ = reached(); }
  std::uint64_t reached() const override {
    std::uint64_t result = begun_;
    for (const Worker& worker : workers_) result += worker.writer.fresh();
    return result;
  }

 protected:
  // Takes what is left of this depth's layer in a page, as KeyBitmap::take_page does.
  using Take = std::function<void(std::uint64_t first, std::uint64_t word)>;
  virtual void take(std::uint64_t page, std::uint64_t depth, const Take& visit) = 0;

  void begin_layer(const KeyBitmap& layer) {
    for (Worker& worker : workers_) {
      worker.expander.forget_seen();
      worker.pages.clear();
      worker.done_pages = 0;
    }
    layer_ = &layer;
    shared_out_ = false;
  }
  void write_into(KeyBitmap& next) {
    for (Worker& worker : workers_) worker.writer.go_on_into(next);
  }
  void set_begun(std::uint64_t keys) { begun_ = keys; }

 private:
  struct Worker {
    Worker(const KeyedGame& game, BitmapWriter own) : expander(game), writer(std::move(own)) {}
    KeyedExpander<1> expander;
    BitmapWriter writer;
    std::vector<Key<1>> block;         // keys that wait until there are enough
    std::vector<std::uint64_t> pages;  // of the layer that it owns
    std::size_t done_pages = 0;        // of them
  };
  void expand_block(Worker& worker, std::uint64_t depth, bool goes_on, LayerWorker& counted);
  void share_out(std::uint64_t depth);

  PageOwners owners_;  // whom the workers ask
  const KeyBitmap* layer_ = nullptr;
  bool shared_out_ = false;  // its pages are
  std::vector<Worker> workers_;
  std::uint64_t begun_ = 0;      // keys reached without these workers
  std::uint64_t looked_at_ = 0;  // reached when last collected
};

template <class Face>
void BitmapStore<Face>::expand_block(Worker& worker, std::uint64_t depth, bool goes_on,
                                     LayerWorker& counted) {
  if (!worker.block.empty() && !counted.faults.any()) {
    counted.faults =
        worker.expander.expand(worker.block, depth, goes_on, counted.counts, worker.writer);
    worker.writer.finish();
  }
  worker.block.clear();
}

// Gives the pages of a layer to owners, by some of the steps that begin there.
template <class Face>
void BitmapStore<Face>::share_out(std::uint64_t depth) {
  constexpr std::size_t samples = 16;
  const std::vector<std::uint64_t> pages = layer_->pages();
  std::vector<PageOwners::Step> steps;
  if (workers_.size() > 1) {
    BlockCounts ignored;
    for (std::size_t i = 0; i < pages.size(); i += pages.size() / samples + 1) {
      const auto words = layer_->page(pages[i]);
      const auto word = std::ranges::find_if(words, [](std::uint64_t one) { return one != 0; });
      const Key<1> from{pages[i] * KeyBitmap::page_keys +
                        static_cast<std::uint64_t>(word - words.begin()) * 64 +
                        static_cast<std::uint64_t>(std::countr_zero(*word))};
      KeyList found;
      workers_[0].expander.expand({&from, 1}, depth, true, ignored, found);
      for (const Key<1>& to : found.keys) steps.push_back({from[0], to[0]});
    }
    workers_[0].expander.forget_seen();
  }
  owners_.share_out(*layer_, pages, steps);
  for (Worker& worker : workers_) worker.writer.owners_changed();
  for (const std::uint64_t page : pages) {
    workers_[owners_.owner_of_page(page)].pages.push_back(page);
  }
  shared_out_ = true;
}

// Each owner of pages by itself, until one has done enough; then what they found for others.
template <class Face>
bool BitmapStore<Face>::expand_some(Crew& crew, std::uint64_t depth, bool goes_on,
                                    std::span<LayerWorker> workers) {
  constexpr std::uint64_t most_keys = 1 << 18;
  constexpr std::size_t word_bits = 64;
  if (!shared_out_) share_out(depth);
  const auto is_done = [](const Worker& worker) {
    return worker.done_pages == worker.pages.size();
  };
  if (std::ranges::all_of(workers_, is_done)) return false;
  std::atomic<bool> enough = false;  // so that nobody waits for a slower one
  crew.work(workers_.size(), [&](std::size_t, std::size_t owner) {
    Worker& worker = workers_[owner];
    const std::uint64_t last = workers[owner].counts.keys + most_keys;
    while (!is_done(worker) && !enough.load(std::memory_order_relaxed)) {
      take(worker.pages[worker.done_pages++], depth, [&](std::uint64_t first, std::uint64_t word) {
        if (worker.block.size() + word_bits > circuit::lanes) {
          expand_block(worker, depth, goes_on, workers[owner]);
        }
        each_key(first, word, [&](const Key<1>& key) { worker.block.push_back(key); });
      });
      if (workers[owner].counts.keys >= last) enough.store(true, std::memory_order_relaxed);
    }
    expand_block(worker, depth, goes_on, workers[owner]);
  });
  if (workers_.size() == 1) return true;
  crew.work(workers_.size(), [&](std::size_t, std::size_t owner) {
    BitmapWriter& writer = workers_[owner].writer;
    for (Worker& from : workers_) writer.receive_from(from.writer);
    writer.finish();
  });
  return true;
}

// Where a measure tells depths apart: one bitmap for both layers, whose keys it tells from one
// another, so that every step must be known to change it as it should.
class MeasuredBitmap : public BitmapStore<KeptLayers<1>> {
 public:
  // With `keeps`, keys stay after they were taken.
  MeasuredBitmap(const KeyedGame& game, std::unique_ptr<KeyBitmap> map, bool keeps,
                 std::size_t workers)
      : BitmapStore(game, *map, nullptr, workers),
        map_(std::move(map)),
        keeps_(keeps),
        ranks_(game.code(), game.measure()) {}

  std::string words_for_it() const override {
    return "one bit for each possible key, two layers at a time";
  }
  void begin(const Key<1>& start) override {
    map_->insert(start[0]);
    set_begun(1);
  }
  void enter_next_layer(Crew&) override { begin_layer(*map_); }
  std::uint64_t bytes() const override { return map_->bytes(); }
  void save(StateWriter& writer) const override {
    writer.put("bitmap", std::vector<std::uint64_t>{reached()});
    save_map(writer, "layers", *map_);
  }
  void load(StateReader& saved) override {
    set_begun(saved.get<std::uint64_t>("bitmap").at(0));
    load_map(saved, "layers", *map_);
    begin_layer(*map_);
  }

  void visit_layer(std::uint64_t depth, const Visit& visit) const override {
    const std::int64_t rank = ranks_.at_depth(depth);
    auto gathered = circuit::gathered<Key<1>>(visit);
    for (const std::uint64_t page : map_->pages()) {
      map_->look_at_page(page, [&](std::uint64_t first, std::uint64_t word) {
        each_key(first, word & ranks_.mask(first, rank),
                 [&](const Key<1>& key) { gathered.add(key); });
      });
      if (gathered.stopped()) return;
    }
    gathered.finish();
  }

 private:
  void take(std::uint64_t page, std::uint64_t depth, const Take& visit) override {
    const std::int64_t rank = ranks_.at_depth(depth);
    const auto of_layer = [&](std::uint64_t first, std::uint64_t word) {
      return word & ranks_.mask(first, rank);
    };
    if (!keeps_) return map_->take_page(page, of_layer, visit);
    map_->look_at_page(page, [&](std::uint64_t first, std::uint64_t word) {
      if (const std::uint64_t here = of_layer(first, word); here != 0) visit(first, here);
    });
  }

  const std::unique_ptr<KeyBitmap> map_;
  const bool keeps_;
  const KeyRanks ranks_;
};

// A bitmap of the layer being left, one of that being entered, and one of all reached before it.
class LayeredBitmaps : public BitmapStore<KeyStore<1>> {
 public:
  struct Maps {
    std::unique_ptr<KeyBitmap> layer;
    std::unique_ptr<KeyBitmap> next;
    std::unique_ptr<KeyBitmap> reached;
  };
  LayeredBitmaps(const KeyedGame& game, Maps maps, std::size_t workers)
      : BitmapStore(game, *maps.next, maps.reached.get(), workers), maps_(std::move(maps)) {}

  std::string words_for_it() const override { return "one bit for each possible key, all layers"; }
  void begin(const Key<1>& start) override {
    maps_.next->insert(start[0]);
    set_begun(1);
  }
  void enter_next_layer(Crew&) override {
    maps_.reached->insert_all(*maps_.next);
    std::swap(maps_.layer, maps_.next);
    write_into(*maps_.next);
    begin_layer(*maps_.layer);
  }
  std::uint64_t bytes() const override {
    return maps_.layer->bytes() + maps_.next->bytes() + maps_.reached->bytes();
  }
  void save(StateWriter& writer) const override {
    writer.put("bitmap", std::vector<std::uint64_t>{reached()});
    save_map(writer, "layer", *maps_.layer);
    save_map(writer, "next", *maps_.next);
    save_map(writer, "reached", *maps_.reached);
  }
  void load(StateReader& saved) override {
    set_begun(saved.get<std::uint64_t>("bitmap").at(0));
    load_map(saved, "layer", *maps_.layer);
    load_map(saved, "next", *maps_.next);
    load_map(saved, "reached", *maps_.reached);
    begin_layer(*maps_.layer);
  }

 private:
  void take(std::uint64_t page, std::uint64_t, const Take& visit) override {
    const auto all = [](std::uint64_t, std::uint64_t word) { return word; };
    maps_.layer->take_page(page, all, visit);
  }

  Maps maps_;
};

}  // namespace

std::unique_ptr<KeyStore<1>> make_bitmap_store(const KeyedGame& game, std::size_t workers) {
  const std::uint32_t bits = game.code().bits;
  if (game.measure().step != 0) {
    std::unique_ptr<KeyBitmap> map = KeyBitmap::make(bits);
    if (!map) return nullptr;
    return std::make_unique<MeasuredBitmap>(game, std::move(map), false, workers);
  }
  LayeredBitmaps::Maps maps{KeyBitmap::make(bits), KeyBitmap::make(bits), KeyBitmap::make(bits)};
  if (!maps.layer || !maps.next || !maps.reached) return nullptr;
  return std::make_unique<LayeredBitmaps>(game, std::move(maps), workers);
}

std::unique_ptr<KeptLayers<1>> make_kept_layers(const KeyedGame& game, std::size_t workers) {
  std::unique_ptr<KeyBitmap> map = KeyBitmap::make(game.code().bits);
  if (!map) return nullptr;
  return std::make_unique<MeasuredBitmap>(game, std::move(map), true, workers);
}

}  // namespace orchard::explore
