// Many things handed over at most 512 at a time, as the lanes take them: those that are all there
// are cut, those that come one by one are gathered. Whoever takes them may stop by returning false.
#pragma once

#include <algorithm>
#include <concepts>
#include <span>
#include <utility>
#include <vector>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

// What `take(arguments…)` returns, and true if that is nothing.
template <class Take, class... Arguments>
bool goes_on(Take& take, Arguments&&... arguments) {
  if constexpr (std::same_as<decltype(take(std::forward<Arguments>(arguments)...)), void>) {
    take(std::forward<Arguments>(arguments)...);
    return true;
  } else {
    return take(std::forward<Arguments>(arguments)...);
  }
}

// Calls take(first, count) for one piece after another of `size` things. False if it was stopped.
template <class Take>
bool each_piece(std::size_t size, Take take) {
  for (std::size_t first = 0; first < size; first += lanes) {
    if (!goes_on(take, first, std::min<std::size_t>(lanes, size - first))) return false;
  }
  return true;
}

// Gathers items and calls take(items) whenever as many wait as there are lanes.
template <class Item, class Take>
class Gathered {
 public:
  explicit Gathered(Take take) : take_(std::move(take)) {}

  std::size_t waiting() const { return items_.size(); }
  bool stopped() const { return stopped_; }
  // All of these return false once it was stopped; then nothing more is taken.
  bool add(Item item) {
    if (stopped_) return false;
    items_.push_back(std::move(item));
    return items_.size() < lanes || finish();
  }
  // So that `count` more, at most as many as there are lanes, are handed over together.
  bool make_room(std::size_t count) { return items_.size() + count <= lanes || finish(); }
  // Hands over what waits.
  bool finish() {
    if (!stopped_ && !items_.empty()) {
      stopped_ = !goes_on(take_, std::span<const Item>(items_));
      items_.clear();
    }
    return !stopped_;
  }

 private:
  Take take_;
  std::vector<Item> items_;
  bool stopped_ = false;
};

template <class Item, class Take>
Gathered<Item, Take> gathered(Take take) {
  return Gathered<Item, Take>(std::move(take));
}

}  // namespace orchard::circuit
