// The least solution of equations in which every term asks for one unknown at most, such as
// "reached from a neighbour": x_a = g_a and (s_a or (x_b and w_ab) or …).
//
// One unknown after the other is put into the equations of the rest; its own loop adds nothing.
// What all terms of an unknown have in common, its guard g, is kept apart: so two squares that
// reach each other through a third do so by one and the same signal in both directions, and half of
// the work is done once only. Exact; O(n · w²) gates for n unknowns, w of them neighbours of one
// when it is its turn. Of several orders the one with the least work is taken.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <vector>

#include "circuit/network/network.hpp"

namespace orchard::circuit {

class LinearFixpoint {
 public:
  explicit LinearFixpoint(Network& network) : network_(network) {}

  // A term of `unknown`: `from` holds, if given, and all of `known` do.
  void add(std::uint32_t unknown, std::optional<std::uint32_t> from, std::vector<Signal> known);

  // By unknown, 0 … unknowns - 1.
  std::vector<Signal> solve(std::size_t unknowns);

 private:
  struct Term {
    std::optional<std::uint32_t> from;
    std::vector<Signal> known;
  };

  void take_guards_out();
  std::vector<std::uint32_t> order() const;

  Network& network_;
  std::map<std::uint32_t, std::vector<Term>> terms_;
  std::vector<Signal> guard_;
  std::vector<Signal> start_;
  std::vector<std::map<std::uint32_t, Signal>> way_;  // way_[a][b]: b's guard and value give a
};

}  // namespace orchard::circuit
