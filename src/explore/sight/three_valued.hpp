// The rules where only part of a position and of a joint move is known: what holds, what does not,
// and what is open, by the strong three-valued logic of Kleene (1938), as far as it follows rule by
// rule. No cases are told apart, so some of what follows by thinking is left open.
//
// Constant once made, safe to share between threads; the ground program must outlive it. Making it
// and evaluating are O(size of the ground program); recursive rules may add a factor of their
// depth.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "ground/ground_program.hpp"

namespace orchard::explore {

enum class Truth : std::int8_t { no, open, yes };
inline Truth operator!(Truth value) {
  return value == Truth::open ? value : value == Truth::yes ? Truth::no : Truth::yes;
}

class ThreeValued {
 public:
  explicit ThreeValued(const ground::GroundProgram& program);

  const ground::GroundProgram& program() const { return program_; }
  // By number, the clauses of an atom.
  std::span<const std::uint32_t> clauses(ground::AtomId atom) const;
  // The value of a clause's body.
  Truth body(const ground::GroundClause& clause, std::span<const Truth> values) const;

  // The values of all atoms, by number. What `given` does not leave open is taken as it is; fluents
  // and moves that it leaves open stay so, everything else is worked out. `choices`: by role, among
  // how many moves the one that it makes must be, if that is known; what each of them derives
  // holds.
  std::vector<Truth> evaluate(std::span<const Truth> given,
                              std::span<const std::uint32_t> choices = {}) const;

 private:
  bool is_input(std::uint32_t atom) const;
  bool whatever_is_chosen(std::uint32_t atom, std::span<const Truth> values,
                          std::span<const std::uint32_t> choices) const;
  void evaluate_recursive(std::span<const std::uint32_t> atoms, std::span<const Truth> given,
                          std::vector<Truth>& values) const;

  const ground::GroundProgram& program_;
  static constexpr std::uint32_t nobody = 0xFFFFFFFF;
  std::vector<std::uint32_t> maker_;         // by atom, the role whose move it is, or nobody
  std::vector<std::uint32_t> clauses_;       // sorted by head
  std::vector<std::uint32_t> first_clause_;  // by atom, and the end
  std::vector<std::uint32_t> atoms_;         // component after component, bodies before heads
  std::vector<std::uint32_t> components_;    // where they end among them
};

}  // namespace orchard::explore
