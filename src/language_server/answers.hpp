// What an editor asks of a text, in the terms of the Language Server Protocol: pure functions of
// what is known.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/json.hpp"
#include "editing/edits.hpp"
#include "language_server/workspace.hpp"

namespace orchard::language_server {

using editing::Spot;
using editing::Units;

// Of a message, its member of that name, or an empty object.
const Json& member(const Json& message, const char* name);
std::string text_in(const Json& message, const char* name);
std::optional<Spot> spot_in(const Json& position);
Json range_of(const Document& document, std::uint32_t begin, std::uint32_t end, Units units);

class Answers {
 public:
  Answers(const Sight& sight, Units units) : sight_(sight), units_(units) {}

  Json diagnostics() const;
  Json hover(Spot spot) const;
  // Where what stands there is made; of what is made nowhere, where it stands first.
  Json definition(Spot spot) const;
  Json references(Spot spot, bool with_definition, const std::vector<Sight>& companions) const;
  Json highlights(Spot spot) const;
  Json symbols() const;
  Json folds() const;
  Json completion(Spot spot) const;
  Json fixes(std::uint32_t begin, std::uint32_t end) const;
  Json lenses() const;
  Json tokens() const;
  Json formatted() const;
  // Either the changes by document, or why not.
  struct Renaming {
    Json changes;
    std::string fault;
  };
  Json can_be_renamed(Spot spot) const;
  Renaming renaming(Spot spot, std::string name, const std::vector<Sight>& companions) const;

 private:
  const editing::Name* name_at(Spot spot) const;
  Json range(std::uint32_t begin, std::uint32_t end) const {
    return range_of(sight_.document, begin, end, units_);
  }
  Json location(const Sight& sight, std::uint32_t begin, std::uint32_t end) const;
  // The last one that read; null if there is none.
  const Reading* reading() const;

  const Sight& sight_;
  const Units units_;
};

// What a lens runs, as commands of the protocol.
inline constexpr const char* run_case_command = "orchard.run-case";
inline constexpr const char* draw_command = "orchard.draw-position";

}  // namespace orchard::language_server
