// Tree search with playouts: which moves come out best in many games from here.
//
// Every role that chooses has a bandit of its own in each position of the tree (upper confidence
// bounds, Kocsis and Szepesvári 2006, decoupled where roles choose at once); chance draws. Leaves
// are gathered, hundreds at a time, worked out and played to their ends together on the circuit.
//
// Where one role chooses, what is certain is handed back (as in Winands, Björnsson and Saito 2008):
// a position is proven once some move is known to win everything, or all moves are known. Proven
// moves are tried no more, and the search ends when the root is proven. The tree may be kept for
// the next move: what follows from there goes on being used.
#pragma once

#include "explore/game_tree.hpp"

namespace orchard::opponents {

using explore::GameTree;
using explore::Node;
using explore::Row;

struct SearchLimit {
  std::uint64_t playouts = 2000;
  double seconds = 0;  // instead, if not 0
};

class TreeSearch {
 public:
  explicit TreeSearch(GameTree& tree) : tree_(tree) {}

  struct Judged {
    std::uint64_t visits = 0;
    double mean = 0;      // share of the role
    bool proven = false;  // it is exactly that under best play
  };
  // For each legal move of the role how often it was tried, and with what result. Goes on with the
  // tree of the last call if the position is in it.
  std::vector<Judged> run(const Row& root, std::size_t role, const SearchLimit& limit,
                          Random& random);

 private:
  struct Arm {
    std::uint32_t visits = 0;
    float sum = 0;
  };
  struct Place {
    Row row;
    Node node;
    std::vector<std::vector<Arm>> arms;  // by role and legal move
    std::uint32_t visits = 0;
    absl::flat_hash_map<std::uint64_t, std::uint32_t> children;  // by joint move
    bool proven = false;
    std::vector<float> shares;  // under best play, if proven
  };
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  struct Step {
    std::uint32_t place = 0;
    std::vector<std::uint32_t> choices;  // by role: which legal move
  };
  using Path = std::vector<Step>;

  std::uint32_t add(Row row, Node node);
  std::vector<std::uint32_t> choose(Place& place, Random& random) const;
  static std::uint64_t key_of(const Place& place, const std::vector<std::uint32_t>& choices);
  void round(std::size_t size, Random& random);
  void learn(const Path& path, std::span<const float> shares);
  std::size_t chooser(const Place& place) const;
  const Place* known_child(const Place& place, std::size_t role, std::size_t arm) const;
  void hand_back(const Path& path);
  bool try_to_prove(Place& place) const;
  bool go_on_from(const Row& root);

  GameTree& tree_;
  std::vector<Place> places_;
};

}  // namespace orchard::opponents
