// Where a census on keys keeps what it reached: what the ways of doing so have in common.
//
// A store knows the layer being left and the one being entered. A part of the layer being left is
// expanded by a crew; when nothing is left of it the next layer is entered. What is reached does
// not depend on the crew.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>

#include "base/saved_state.hpp"
#include "explore/keys/keyed_expander.hpp"
#include "explore/stores/run_shelf.hpp"
#include "threads/crew.hpp"

namespace orchard::explore {

// What a worker has counted in a layer so far, and the fault that it met.
struct LayerWorker {
  BlockCounts counts;
  BlockFaults faults;
};

template <std::size_t words>
class KeyStore {
 public:
  virtual ~KeyStore() = default;
  virtual std::string words_for_it() const = 0;  // how positions are kept

  virtual void begin(const Key<words>& start) = 0;
  // What was found becomes the layer to be left.
  virtual void enter_next_layer(Crew& crew) = 0;
  // Expands some more of the layer, of this depth, with a worker of `workers` for each of the crew.
  // False if nothing was left; then everything found has been collected.
  virtual bool expand_some(Crew& crew, std::uint64_t depth, bool goes_on,
                           std::span<LayerWorker> workers) = 0;
  // Whether enough was done to look at budgets; and then, or before a save, this comes first.
  virtual bool is_full() const = 0;
  virtual void collect(Crew& crew) = 0;
  // Why what was found could not be kept, if it could not.
  virtual std::optional<std::string> problem() const { return std::nullopt; }

  // Once collected:
  // Keys of all layers; of the one being entered before nothing is left of the other, some stores
  // may count some twice, and `surely_reached` does not.
  virtual std::uint64_t reached() const = 0;
  virtual std::uint64_t surely_reached() const { return reached(); }
  virtual std::uint64_t bytes() const = 0;  // of memory
  virtual std::uint64_t bytes_in_files() const { return 0; }
  virtual void save(StateWriter& writer) const = 0;
  virtual void load(StateReader& saved) = 0;

  // What the workers saw of what is looked out for, since the last layer was entered.
  virtual SignalCounts seen() const = 0;
};

// A store in which the keys of all layers stay.
template <std::size_t words>
class KeptLayers : public KeyStore<words> {
 public:
  // Calls visit(keys), up to 512 of them, until it is false.
  using Visit = std::function<bool(std::span<const Key<words>>)>;
  virtual void visit_layer(std::uint64_t depth, const Visit& visit) const = 0;
};

// Sets of mixed keys in parts that fit into caches. With `apart` layers are known to be disjoint,
// and no more than two of them are kept.
template <std::size_t words>
std::unique_ptr<KeyStore<words>> make_set_store(const KeyedGame& game, bool apart,
                                                std::size_t workers);

// Coded runs (see `key_run.hpp`) in parts, in memory or in files: slower than sets, and a fraction
// of their memory. What is found is sorted, put in runs of its own, and these together as they grow
// many; what was there before is told apart when all of a layer was found.
struct RunPlan {
  bool apart = false;                   // as with sets
  bool keeps = false;                   // all layers stay
  std::optional<std::uint64_t> memory;  // an eighth of it at most is for what is not in runs yet
  std::optional<RunShelf::Files> files;
};
template <std::size_t words>
std::unique_ptr<KeptLayers<words>> make_run_store(const KeyedGame& game, RunPlan plan,
                                                  std::size_t workers);

// A bit for every key there could be: once where the measure of the game tells layers apart, else
// for each of the two layers and for all before. Null where there is no room for so many.
std::unique_ptr<KeyStore<1>> make_bitmap_store(const KeyedGame& game, std::size_t workers);
// The same where a measure tells layers apart, and all of them stay.
std::unique_ptr<KeptLayers<1>> make_kept_layers(const KeyedGame& game, std::size_t workers);

}  // namespace orchard::explore
