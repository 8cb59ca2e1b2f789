// The tree of a search: positions met, how often each move was tried there, and with what result.
//
// Where one role alone chooses, moves are tried by upper confidence bounds (Kocsis and Szepesvári
// 2006), and what is certain is handed back (as in Winands, Björnsson and Saito 2008): a position
// is proven once some move is known to win everything, or all moves are known. Where several choose
// at once each mixes its moves by regret matching (Hart and Mas-Colell 2000; in trees: Lisý,
// Kovařík, Lanctot and Bošanský 2013): the mean of its mixtures tends to best play where interests
// are opposed. Chance draws.
//
// Trying a move counts at once, so that others who look at the same time go elsewhere; its result
// is learned later. Belongs to one thread at a time. Memory: a position takes about 30 bytes, its
// bits, 4 bytes a role and 32 a move; bounded, see `full`.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <cstdint>
#include <span>
#include <vector>

#include "opponents/leaves.hpp"
#include "orchard/random.hpp"

namespace orchard::opponents {

class SearchTree {
 public:
  static constexpr std::uint32_t none = 0xFFFFFFFF;
  static constexpr std::size_t usual_bytes = std::size_t{768} << 20;

  // What the tree needs to know of the game.
  struct Shape {
    std::size_t roles = 0;
    std::size_t words = 0;  // of a position
    std::size_t chance = static_cast<std::size_t>(-1);
    std::size_t most_bytes = usual_bytes;
  };
  explicit SearchTree(const Shape& shape) : shape_(shape) {}

  // The root, worked out as the only leaf of `leaves`. Everything else is forgotten.
  void begin(const Leaves& leaves);
  // Makes what follows from a position few plies below the root the whole tree. False, and nothing
  // changes, if it is not there.
  bool go_on_from(std::span<const std::uint64_t> row);

  struct Step {
    std::uint32_t place = 0;
    std::uint64_t choice = 0;  // which move of the only chooser, or which joint move
  };
  struct Path {
    std::vector<Step> steps;
    std::uint32_t leaf = none;  // not worked out yet; none if there is no room for it
    bool known = false;         // it ends in a proven place
  };
  // From the root to a place that is not worked out, or is proven: then what it is worth is learned
  // at once.
  void descend(Path& path, Random& random);
  // The question that the end of a path asks.
  void ask(const Path& path, Leaves& leaves) const;
  // Takes in what was worked out of leaves, unless someone else has meanwhile; those without a
  // place are passed over. What is proven of one replaces what its games came to.
  void open(Leaves& leaves, std::span<const std::uint32_t> places);
  // What a path came to, by role.
  void learn(const Path& path, std::span<const float> shares);
  // Hands back what is proven at the end of paths.
  void hand_back(const Path& path);

  bool proven() const { return places_.front().proven; }
  bool full() const;

  struct Judged {
    std::uint64_t visits = 0;
    double mean = 0;      // share of the role; 0 where several choose at once
    bool proven = false;  // it is exactly that under best play
    double mix = 0;       // how often to make the move where several choose at once
  };
  // Whether several roles choose at the root, so that moves are to be mixed.
  bool mixes() const { return places_.front().kind == Kind::joint; }
  std::vector<Judged> judged(std::size_t role) const;

 private:
  enum class Kind : std::uint8_t { fresh, end, alone, joint };
  // By place, where several choose: each choice with the number of its joint.
  using JointChildren = std::vector<std::vector<std::pair<std::uint64_t, std::uint32_t>>>;
  JointChildren joint_children() const;
  // The place of a position that is still open, a few plies below the root; `none` if not there.
  std::uint32_t find_near_root(std::span<const std::uint64_t> row,
                               const JointChildren& joint_children) const;
  // A tree of its own of what follows from a place.
  SearchTree below(std::uint32_t root, const JointChildren& joint_children) const;
  struct Place {
    std::uint32_t first = none;  // of its arms, or of its options
    std::uint32_t moves = none;  // alone: where the roles' moves stand; joint: where options begin
    std::uint32_t count = 0;     // of arms
    std::uint32_t visits = 0;
    std::uint32_t role = 0;      // the only chooser
    std::uint32_t known = none;  // the proven child that is best for it
    Kind kind = Kind::fresh;
    bool proven = false;
  };
  // A move of the only chooser.
  struct Arm {
    double sum = 0;
    std::uint32_t visits = 0;
    std::uint32_t child = none;
    std::uint32_t move = 0;
    float known = -1;  // the chooser's share if the child is proven
  };
  // Of a move: score + width · a number of the place. Kept apart, so that looking through the moves
  // takes few lines of memory, and neither divides nor takes roots.
  struct Bound {
    float score = 1e9F;  // the mean; without a try more than any other; below all if it is known
    float width = 0;     // 1 / √visits
  };
  void bound_again(std::size_t arm);  // after a change of it
  // A move of one of several choosers.
  struct Option {
    double mixed = 0;  // sum of the shares that it had in the mixture
    float regret = 0;
    std::uint32_t visits = 0;
    std::uint32_t move = 0;
  };
  struct Joint {
    std::uint32_t child = none;
    std::uint32_t learned = 0;  // results in `joint_sums_`
  };

  std::uint32_t add_place();
  void open_place(std::uint32_t at, const Leaves& leaves, std::size_t leaf);
  void put_ends(const Leaves& leaves, std::span<const std::uint32_t> places);
  std::span<const float> shares_of(std::uint32_t place) const {
    return std::span(shares_).subspan(place * shape_.roles, shape_.roles);
  }
  std::uint32_t choose_alone(const Place& place, Random& random);
  std::uint64_t choose_joint(Place& place, Random& random);
  void mixture(const Place& place, std::size_t role, std::vector<double>& shares) const;
  std::span<const std::uint32_t> options_of(const Place& place) const {
    return std::span(numbers_).subspan(place.moves, shape_.roles + 1);
  }
  std::uint32_t joint_number(std::uint32_t place, std::uint64_t choice);
  void learn_joint(const Step& step, std::span<const float> shares);
  bool try_to_prove(std::uint32_t at);
  bool try_to_prove_alone(std::uint32_t at);
  bool try_to_prove_chance(std::uint32_t at);
  void prove(std::uint32_t at, std::span<const float> shares);
  void tell_parent(const Step& step);
  std::uint32_t copy_place(const SearchTree& from, std::uint32_t at);

  Shape shape_;
  std::vector<Place> places_;
  std::vector<std::uint64_t> rows_;     // place × words
  std::vector<float> shares_;           // place × roles: of ends and of what is proven
  std::vector<Arm> arms_;               // of places with one chooser
  std::vector<Bound> bounds_;           // arm by arm
  std::vector<Option> options_;         // of places with several, role by role
  std::vector<std::uint32_t> numbers_;  // see Place::moves
  std::vector<Joint> joints_;
  std::vector<double> joint_sums_;  // joint × roles
  absl::flat_hash_map<std::pair<std::uint32_t, std::uint64_t>, std::uint32_t> joint_numbers_;
  std::vector<double> mixture_;  // scratch
};

}  // namespace orchard::opponents
