#include <fmt/core.h>

#include "explore/stores/block_workers.hpp"
#include "circuit/lanes/pieces.hpp"
#include "explore/stores/key_set.hpp"

namespace orchard::explore {

namespace {

// As many are found before they are put into the sets.
constexpr std::uint64_t enough_found = 4'000'000;

template <std::size_t words>
class SetStore : public KeyStore<words> {
 public:
  using OneKey = Key<words>;
  using Keys = std::vector<OneKey>;

  SetStore(const KeyedGame& game, bool apart, std::size_t workers)
      : apart_(apart), mixer_(game.code().bits) {
    for (std::size_t w = 0; w < workers; ++w) workers_.emplace_back(game, mixer_);
  }

  std::string words_for_it() const override {
    return apart_ ? "in sets, two layers at a time" : "in sets, all layers";
  }
  void begin(const OneKey& start) override {
    const OneKey mixed = mixer_.mix(start);
    insert(KeyParts<words>::part_of(mixed), mixed);
  }
  void enter_next_layer(Crew&) override;
  bool expand_some(Crew& crew, std::uint64_t depth, bool goes_on,
                   std::span<LayerWorker> workers) override;
  bool is_full() const override { return found_by(workers_) >= enough_found; }
  void collect(Crew& crew) override;
  std::uint64_t reached() const override {
    std::uint64_t result = before_;
    for (const auto& set : reached_) result += set.size();
    return result;
  }
  std::uint64_t bytes() const override;
  void save(StateWriter& writer) const override;
  void load(StateReader& saved) override;
  SignalCounts seen() const override { return seen_by(workers_); }

 private:
  using Worker = BlockWorker<words>;

  void insert(std::size_t part, const OneKey& key) {
    if (reached_[part].insert(key) && !apart_) next_layer_[part].push_back(key);
  }
  void gather();
  std::span<const OneKey> layer_part(std::size_t part) const {
    return apart_ ? left_[part].places() : std::span<const OneKey>(layer_[part]);
  }

  const bool apart_;
  const KeyMixer<words> mixer_;
  std::vector<Worker> workers_;
  // If layers are apart: the one entered and the one left. Else every key, and the two in lists.
  std::array<KeySet<words>, key_parts> reached_;
  std::array<KeySet<words>, key_parts> left_;
  std::array<Keys, key_parts> layer_;
  std::array<Keys, key_parts> next_layer_;
  std::uint64_t before_ = 0;  // keys of the layers before, where they are not kept
  // What was gathered from the layer up to here.
  std::size_t taken_part_ = 0;
  std::size_t taken_ = 0;
  std::vector<Keys> blocks_;  // gathered, up to 512 keys each
};

// The next keys of the layer, if some are left.
template <std::size_t words>
void SetStore<words>::gather() {
  constexpr std::size_t most_blocks = 128;
  blocks_.clear();
  auto gathered = circuit::gathered<OneKey>([&](std::span<const OneKey> keys) {
    blocks_.emplace_back(keys.begin(), keys.end());
    return blocks_.size() < most_blocks;
  });
  for (; taken_part_ < key_parts; ++taken_part_, taken_ = 0) {
    const std::span<const OneKey> keys = layer_part(taken_part_);
    while (taken_ < keys.size()) {
      const OneKey& key = keys[taken_++];
      if (same_key(key, KeySet<words>::free_place)) continue;
      if (!gathered.add(mixer_.unmix(key))) return;
    }
  }
  gathered.finish();
}

template <std::size_t words>
bool SetStore<words>::expand_some(Crew& crew, std::uint64_t depth, bool goes_on,
                                  std::span<LayerWorker> workers) {
  gather();
  if (blocks_.empty()) {
    collect(crew);
    return false;
  }
  expand_blocks<words>(crew, blocks_, workers_, workers, depth, goes_on);
  return true;
}

// What the workers found, into the sets: a part is the work of one of them.
template <std::size_t words>
void SetStore<words>::collect(Crew& crew) {
  crew.work(key_parts, [&](std::size_t, std::size_t part) {
    constexpr std::size_t ahead = 16;
    for (Worker& worker : workers_) {
      Keys& keys = worker.found[part];
      for (std::size_t i = 0; i < keys.size(); ++i) {
        if (i + ahead < keys.size()) reached_[part].prefetch(keys[i + ahead]);
        insert(part, keys[i]);
      }
      keys.clear();
    }
  });
}

template <std::size_t words>
std::uint64_t SetStore<words>::bytes() const {
  std::uint64_t result = 0;
  for (std::size_t part = 0; part < key_parts; ++part) {
    result += reached_[part].bytes() + left_[part].bytes() +
              (layer_[part].capacity() + next_layer_[part].capacity()) * sizeof(OneKey);
  }
  return result + bytes_found_by(workers_);
}

template <std::size_t words>
void SetStore<words>::enter_next_layer(Crew&) {
  taken_part_ = 0;
  taken_ = 0;
  for (Worker& worker : workers_) worker.expander.forget_seen();
  if (apart_) before_ = reached();
  std::uint64_t left = 0;
  std::uint64_t entered = 0;
  for (std::size_t part = 0; part < key_parts; ++part) {
    left += left_[part].size();
    entered += reached_[part].size();
  }
  // Layers rarely grow more than the last one did.
  const double growth = left > 0 ? static_cast<double>(entered) / static_cast<double>(left) : 1;
  for (std::size_t part = 0; part < key_parts; ++part) {
    if (apart_) {
      left_[part] = std::move(reached_[part]);
      reached_[part] = {};
      reached_[part].reserve(
          static_cast<std::uint64_t>(static_cast<double>(left_[part].size()) * growth));
    } else {
      layer_[part] = std::move(next_layer_[part]);
      next_layer_[part] = {};
    }
  }
}

template <std::size_t words>
void SetStore<words>::save(StateWriter& writer) const {
  writer.put("sets", std::vector<std::uint64_t>{before_, taken_part_, taken_});
  for (std::size_t part = 0; part < key_parts; ++part) {
    const auto put = [&](const char* name, std::span<const OneKey> keys) {
      writer.put(fmt::format("{} {}", name, part), keys);
    };
    put("reached", reached_[part].places());
    put("left", left_[part].places());
    put("layer", layer_[part]);
    put("next", next_layer_[part]);
  }
}

template <std::size_t words>
void SetStore<words>::load(StateReader& saved) {
  const auto at = saved.get<std::uint64_t>("sets");
  before_ = at.at(0);
  taken_part_ = at.at(1);
  taken_ = at.at(2);
  for (std::size_t part = 0; part < key_parts; ++part) {
    const auto get = [&](const char* name) {
      return saved.get<OneKey>(fmt::format("{} {}", name, part));
    };
    reached_[part].restore(get("reached"));
    left_[part].restore(get("left"));
    layer_[part] = get("layer");
    next_layer_[part] = get("next");
  }
}

}  // namespace

template <std::size_t words>
std::unique_ptr<KeyStore<words>> make_set_store(const KeyedGame& game, bool apart,
                                                std::size_t workers) {
  return std::make_unique<SetStore<words>>(game, apart, workers);
}

template std::unique_ptr<KeyStore<1>> make_set_store(const KeyedGame&, bool, std::size_t);
template std::unique_ptr<KeyStore<2>> make_set_store(const KeyedGame&, bool, std::size_t);
template std::unique_ptr<KeyStore<3>> make_set_store(const KeyedGame&, bool, std::size_t);

}  // namespace orchard::explore
