// The claims of a file, or a formula to find: read, made into rules, asked of every position.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "review/claims/claim_rules.hpp"
#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

class Claims {
 public:
  // Of the file, or the text, that the options name; else there are none.
  static Result<Claims> read(const Game& game, const ReviewOptions& options);
  // One that says a formula is possible.
  static Result<Claims> of_formula(const Game& game, const std::string& formula);

  // The game with the relations that stand for the claims.
  const Game& explored() const { return explored_; }
  const std::vector<Claim>& claims() const { return claims_; }

  // The claims must outlive the conclusion.
  Conclusion ask(Watchlist& list) const;

 private:
  explicit Claims(const Game& game) : explored_(game) {}
  static Result<Claims> make(const Game& game, const syntax::Source& source, bool is_formula);

  Game explored_;
  std::vector<Claim> claims_;
};

}  // namespace orchard::review
