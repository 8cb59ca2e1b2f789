// Signals that ask what is done, as signals of positions alone: whether some joint move makes them
// hold there. So they can be looked out for in positions, and proved to hold in none.
//
// Used while the watchlist is there, which it belongs to. Memory: a number for each joint move
// and gate.
#pragma once

#include <optional>
#include <vector>

#include "circuit/network/copier.hpp"
#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

class SomeMove {
 public:
  // None if there are too many joint moves.
  static std::optional<SomeMove> of(Watchlist& list);

  // That a signal of the game holds with some joint move that can be made; where none can be, that
  // it holds with none.
  Signal operator()(Signal signal);

  // A watch of positions with joint moves that were not thought of: what was said of all of them is
  // sure only where it is seen nowhere.
  std::size_t others() const { return others_; }

 private:
  explicit SomeMove(const Inquiry& inquiry) : inquiry_(&inquiry) {}
  struct Joint {
    Signal possible;
    circuit::Copier with;
  };

  const Inquiry* inquiry_;
  std::vector<Joint> joints_;  // that none is made among them
  std::size_t others_ = 0;
};

}  // namespace orchard::review
