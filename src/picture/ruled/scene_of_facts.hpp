// From drawing facts to a scene.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "orchard/game.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

// A legal move and a place where it is shown.
struct Choice {
  std::string role;
  Term move;
  std::string place;
};

struct SceneOfFacts {
  Scene scene;
  std::vector<Choice> choices;
  std::map<std::string, std::size_t> spots;  // by the text of their place
};

SceneOfFacts scene_of_facts(const Game& game, const std::vector<Term>& facts);

// The characters of the pieces that facts put somewhere, one behind the other as in a square.
std::string glyphs_of(const Game& game, const std::vector<Term>& facts);

// The places that facts put something on, one by one.
std::vector<std::string> places_of(const std::vector<Term>& facts);

}  // namespace orchard::picture
