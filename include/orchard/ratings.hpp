// How strong players are, from who did better than whom.
//
// The model of Bradley and Terry (1952): a player of rating a does better than one of rating b with
// odds of ten to the power (a - b) / 400; a draw counts as half. Ratings are those that make the
// results most likely, on average 0, with intervals from the curvature of the likelihood there. One
// result that never happened (half a win and half a loss of each pair that met) keeps ratings of
// players that always win finite. Any thread may call.
#pragma once

#include <cstdint>
#include <vector>

namespace orchard {

// What two players made of each other.
struct Pairing {
  std::size_t first = 0;  // players
  // The number of the other one.
  std::size_t second = 0;
  double first_better = 0;  // results, draws as half
  // The number of games; a drawn one counts half for each side.
  double games = 0;
};

// How strong a player is, with its 95 % interval.
struct Rating {
  // 400 points more are odds of ten to one.
  double rating = 0;
  double least = 0;  // with 95 % certainty
  // The upper end of the interval.
  double most = 0;
};

// Players that never met, even by others between them, are not comparable: their ratings stand
// apart by chance, with wide intervals. O(players³ · steps).
std::vector<Rating> rate(std::size_t players, const std::vector<Pairing>& pairings);

}  // namespace orchard
