// A claim about single positions or steps: what is looked for is a failure (always, never,
// exclusive) or a witness (possible).
//
// Made before the inquiry looks, asked after it; the claim and the inquiry must outlive it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "review/claims/claim_rules.hpp"
#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

// A relation that stands for a formula, for one choice of its variables.
struct Instance {
  std::string about;  // " for ?row = 1, ?column = 2"; empty without variables
  Signal signal;
  bool needs_move = false;  // it asks what is done
};

// For every choice of the claim's variables.
std::vector<Instance> instances_of(Inquiry& inquiry, const Claim& claim,
                                   const std::string& relation);

class SearchedClaim {
 public:
  SearchedClaim(Inquiry& inquiry, const Claim& claim);

  Answer conclude();
  // What was met first; `proved` if it is known that there is nothing.
  Sought sought();

 private:
  struct Met {
    std::string about;
    Exploration::Spot spot;
    std::optional<std::size_t> step{};  // of a position explored
    std::uint64_t count = 0;
    std::optional<Signal> with_move{};  // that some joint move makes hold there
  };

  void look();
  void look_at_positions();
  void look_with_moves();
  bool thought_of_all_moves() const;
  bool looked_at_all() const;
  bool is_impossible(std::size_t instance);
  Line line() const;
  Line line_with_move() const;
  bool is_shortest() const { return Exploration::is_shortest(met_->spot); }
  void show(Answer& answer) const;
  std::string extent() const;
  Answer nowhere_it_fails() const;
  Answer possible();

  Inquiry& inquiry_;
  const Claim& claim_;
  std::vector<Instance> instances_;
  bool needs_moves_ = false;
  std::vector<Watched> watched_;  // an instance each; if it asks for a move, that some move is so
  std::optional<std::size_t> other_moves_;  // then, where there are moves not thought of
  std::optional<Met> met_;
  std::vector<std::size_t> missing_;  // instances that were met nowhere
};

}  // namespace orchard::review
