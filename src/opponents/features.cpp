#include "opponents/features.hpp"

#include <algorithm>

namespace orchard::opponents {

Features::Features(const GameTree& tree) : things_(tree.roles()) {
  const auto& ground = tree.lanes().ground();
  for (std::uint32_t number = 0; number < ground.fluents().size(); ++number) {
    const Term term = ground.terms().term(ground.fluents()[number].term);
    // Whose turn it is, or a number kept for a role, is no thing on a board.
    if (term.arity() < 2) continue;
    for (std::size_t role = 0; role < things_.size(); ++role) {
      const std::string name = ground.terms().text(ground.description().roles()[role]);
      for (const Term& argument : term.arguments()) {
        if (argument.to_string() == name) things_[role].push_back(number);
      }
    }
  }
}

float Features::judge(const Row& row, const Node& node, std::size_t role) const {
  return node.shares[role] + 0.004F * balance(row, role) + 0.0005F * mobility(node, role);
}

// Own things minus the others', squeezed into -1 to 1.
float Features::balance(const Row& row, std::size_t role) const {
  const auto count = [&](std::size_t of) {
    return std::ranges::count_if(things_[of], [&](std::uint32_t number) {
      return (row[number / 64] >> (number % 64) & 1) != 0;
    });
  };
  std::ptrdiff_t difference = 0;
  std::ptrdiff_t all = 1;
  for (std::size_t of = 0; of < things_.size(); ++of) {
    const std::ptrdiff_t of_role = count(of);
    difference += of == role ? of_role : -of_role;
    all += of_role;
  }
  return static_cast<float>(difference) / static_cast<float>(all);
}

// Moves that are left to the others count against, one's own for.
float Features::mobility(const Node& node, std::size_t role) {
  float result = 0;
  for (std::size_t of = 0; of < node.legal.size(); ++of) {
    const auto moves = static_cast<float>(node.legal[of].size());
    result += (of == role ? moves : -moves) / (moves + 10);
  }
  return result;
}

}  // namespace orchard::opponents
