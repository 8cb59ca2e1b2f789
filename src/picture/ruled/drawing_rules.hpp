// Drawing rules: a file of rules in the same language that derives drawing facts from a position.
//
//   (<= (draw (piece (at ?row ?column) leaf ?gardener))
//       (true (square ?row ?column ?gardener))
//       (role ?gardener))
//
// The rules of the game stand before them, so every relation and size of the game can be used, and
// `legal`, `goal` and `terminal`. Three more relations tell of the drawing itself:
//   (viewer ROLE)            for whom it is drawn; nobody if everything is shown
//   (perceived ROLE PERCEPT) what the viewer has seen so far
//   (unsure FLUENT)          the viewer does not know whether it holds
//   (last_move ROLE MOVE)    made in the last joint move
//
// Immutable once made; evaluators are kept in a pool, so any number of threads may draw. Drawing
// never fails: where the rules run into a limit nothing is derived (`Drawn::complete` says so).
#pragma once

#include <absl/container/flat_hash_map.h>

#include <map>
#include <memory>
#include <mutex>
#include <set>
#include <string>
#include <vector>

#include "game/core.hpp"
#include "orchard/game.hpp"
#include "orchard/picture.hpp"

namespace orchard::picture {

// Facts in the order of the drawing rules that give them, then of Term.
using Facts = std::vector<Term>;

class DrawingRules {
 public:
  // Reads and checks. Fails with what is wrong in the language, and `bad-drawing`: an unknown
  // drawing fact, shape or tone, a rule for a relation of the game.
  static Result<std::shared_ptr<const DrawingRules>> read(const Game& game,
                                                          const std::string& path);
  static Result<std::shared_ptr<const DrawingRules>> from_text(const Game& game, std::string text,
                                                               std::string name);
  const Diagnostics& findings() const { return findings_; }
  // What the drawing leaves out: fluents of which it shows nothing.
  const Diagnostics& hints() const { return hints_; }
  bool asks_for_percepts() const { return asks_for_percepts_; }

  struct Drawn {
    Facts facts;
    bool complete = true;
  };
  Drawn draw(const PictureFrame& frame) const;
  // The facts that are there because of a fluent alone: those drawn of it, without those that are
  // always drawn. In pieces, grounds and the like this tells where a fluent stands.
  Facts drawn_of(const Term& fluent) const;

 private:
  DrawingRules(std::shared_ptr<const logic::Program> program,
               std::shared_ptr<const rules::Description> game, std::vector<syntax::Source> sources);

  static Result<std::shared_ptr<const DrawingRules>> make(const Game& game, syntax::Source source);
  // The rules ready to run. Where no moves are to be shown, those for `choice` are left out: what
  // is legal is most of the work in many games.
  struct Prepared {
    std::shared_ptr<const logic::Program> program;
    std::optional<rules::RelationId> draw;
    std::vector<std::unique_ptr<logic::Evaluator>> pool;  // guarded by mutex_
  };
  Prepared& prepared(bool with_choices) const;
  Drawn derive(const std::vector<Term>& fluents, bool with_choices) const;
  static std::size_t rule_of(const Prepared& prepared, const Term& fact);

  std::shared_ptr<const rules::Description> game_;
  std::vector<syntax::Source> sources_;
  Diagnostics findings_;
  Diagnostics hints_;
  bool asks_for_percepts_ = false;
  mutable std::mutex mutex_;
  mutable Prepared whole_;
  mutable Prepared without_choices_;  // made when first asked for
  mutable std::once_flag without_once_;
  mutable std::optional<std::set<Term>> always_;  // guarded by mutex_
  mutable std::map<Term, Facts> of_fluent_;       // guarded by mutex_
};

}  // namespace orchard::picture
