// What follows from positions, at the speed of the circuit: for searches of one's own.
//
//   auto tree = orchard::PositionTree::make(game).value();
//   const auto start = tree.row(game.initial()).value();
//   for (const auto& child : tree.children(start)) std::cout << child.node.over << '\n';
//
// Positions are rows of bits and moves are numbers, so that nothing is made of what a search looks
// at only once. Whatever is asked of many positions at once is worked out 512 side by side, at
// about the cost of one: `nodes`, `next`, `children` and `play` are best asked for many.
//
// A tree belongs to one thread at a time and keeps what it needs of its game alive. Nothing here
// fails but `make` and `row`; a row or a number that does not come from the game is a mistake of
// the program that calls.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "orchard/game.hpp"
#include "orchard/random.hpp"

namespace orchard {

// Positions as rows, and what follows from them.
class PositionTree {
 public:
  using Row = std::vector<std::uint64_t>;    // a bit for each fluent; equal rows, equal positions
  using Joint = std::vector<std::uint32_t>;  // a move number for each role

  // What is known of one position.
  struct Node {
    bool over = false;  // an end, or a role has no legal move
    // By role, the goal value derived here as a share of 100, 0 to 1; 0.5 where it is not one.
    std::vector<float> shares;
    std::vector<std::vector<std::uint32_t>> legal;  // by role, ascending; none where it is over
  };
  // What one joint move leads to.
  struct Child {
    // The joint move that leads to the child, as one number for each role.
    Joint joint;
    // The child's position.
    Row row;
    // What is known of the child.
    Node node;
  };

  // Fails with `too-many-instances` and the like if the rules have no circuit.
  static Result<PositionTree> make(const Game& game);
  // Moves a tree; the other must not be used afterwards.
  PositionTree(PositionTree&&) noexcept;
  // Moves a tree; the other must not be used afterwards.
  PositionTree& operator=(PositionTree&&) noexcept;
  ~PositionTree();

  // The row of a position of the game; none if it holds a fluent that no play from the start can
  // lead to.
  std::optional<Row> row(const Position& position) const;
  // Works the position out: for what a search comes to, not for what it goes through.
  Result<Position> position(const Row& row) const;
  // The move of a role that has this number.
  Move move(const Role& role, std::uint32_t number) const;
  // The number of a move; none if it can never be legal.
  std::optional<std::uint32_t> number(const Role& role, const Move& move) const;

  // Computes what is known of a position.
  Node node(const Row& row);
  // Computes the same for many positions at once, which is far quicker.
  std::vector<Node> nodes(std::span<const Row> rows);
  // What one joint move makes of each position. O(positions / 512) passes.
  std::vector<Row> next(std::span<const Row> rows, std::span<const Joint> joints);
  // Every joint move of a position, the first role's choice changing fastest; none where it is
  // over.
  std::vector<Child> children(const Row& row);
  // One random game from each position, to its end (or 10 000 plies): the shares of the roles,
  // position by position. Positions may come several times.
  std::vector<float> play(std::span<const Row> rows, Random& random);

 private:
  struct Inner;
  explicit PositionTree(std::unique_ptr<Inner> inner);
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard
