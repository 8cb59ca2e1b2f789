#include "circuit/lanes/two_inputs.hpp"

#include <array>
#include <cassert>
#include <limits>

#include "circuit/lanes/equivalence.hpp"

namespace orchard::circuit {
namespace {

// How a function of a, b, c is made: from two functions by an operation, or it is there already.
struct Recipe {
  std::uint8_t table = 0;  // of the operation; 0: an operand
  std::uint8_t left = 0;   // functions
  std::uint8_t right = 0;
  int cost = std::numeric_limits<int>::max() / 4;
};
using Recipes = std::array<Recipe, 256>;

constexpr std::uint8_t function_a = 0b11110000;
constexpr std::uint8_t function_b = 0b11001100;
constexpr std::uint8_t function_c = 0b10101010;

// Cheapest expressions: functions of cost n are made of those whose costs add up to n - 1.
Recipes make_recipes() {
  Recipes recipes;
  for (const std::uint8_t leaf : {function_a, function_b, function_c}) recipes[leaf].cost = 0;
  bool open = true;
  for (int cost = 1; open; ++cost) {
    open = false;
    for (Recipe& recipe : recipes) open = open || recipe.cost > cost;
    const Recipes before = recipes;
    const auto offer = [&](unsigned function, std::uint8_t table, unsigned left, unsigned right) {
      Recipe& recipe = recipes[function & 0xFF];
      if (recipe.cost <= cost) return;
      recipe = {table, static_cast<std::uint8_t>(left), static_cast<std::uint8_t>(right), cost};
    };
    for (unsigned left = 0; left < 256; ++left) {
      if (before[left].cost == cost - 1) offer(~left, negation_table, left, left);
      for (unsigned right = 0; right < 256; ++right) {
        if (before[left].cost + before[right].cost != cost - 1) continue;
        offer(left & right, both_table, left, right);
        offer(left | right, either_table, left, right);
        offer(left ^ right, differ_table, left, right);
        offer(left & ~right, without_table, left, right);
      }
    }
  }
  return recipes;
}

class Rewriter {
 public:
  explicit Rewriter(const LaneProgram& from) : from_(from), recipes_(make_recipes()) {}

  LaneProgram run() {
    to_.inputs = from_.inputs;
    to_.state_inputs = from_.state_inputs;
    to_.reports = from_.reports;
    for (std::uint32_t i = 0; i < from_.inputs; ++i) values_.push_back(i);
    for (const LaneOperation& operation : from_.operations) {
      if (operation.table == 0x00 || operation.table == 0xFF) {
        values_.push_back(add({0, 0, 0, operation.table}));
        continue;
      }
      values_.push_back(
          make(operation.table, values_[operation.a], values_[operation.b], values_[operation.c]));
    }
    for (const std::uint32_t output : from_.outputs) to_.outputs.push_back(values_[output]);
    return std::move(to_);
  }

 private:
  std::uint32_t add(const LaneOperation& operation) {
    to_.operations.push_back(operation);
    return to_.inputs + static_cast<std::uint32_t>(to_.operations.size() - 1);
  }
  // No deeper than the recipes are, four levels.
  std::uint32_t make(std::uint8_t function, std::uint32_t a, std::uint32_t b, std::uint32_t c) {
    if (function == function_a) return a;
    if (function == function_b) return b;
    if (function == function_c) return c;
    const Recipe& recipe = recipes_[function];
    const std::uint32_t left = make(recipe.left, a, b, c);
    if (recipe.table == negation_table) return add({left, left, left, negation_table});
    const std::uint32_t right = make(recipe.right, a, b, c);
    return add({left, left, right, recipe.table});
  }

  const LaneProgram& from_;
  const Recipes recipes_;
  LaneProgram to_;
  std::vector<std::uint32_t> values_;  // by value of the old program
};

}  // namespace

LaneProgram in_two_inputs(const LaneProgram& program) {
  LaneProgram result = Rewriter(program).run();
  assert(same_on_random_inputs(program, result));
  return result;
}

}  // namespace orchard::circuit
