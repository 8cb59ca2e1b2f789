// Files of claims, and formulas to find.
#include <unistd.h>

#include <cstddef>
#include <cstdint>
#include <fstream>
#include <string>

#include "orchard/review.hpp"

namespace {

constexpr const char* rules = R"(
  (role a) (role b) (row 1) (row 2) (rival a b) (rival b a)
  (init (cell 1 1 x)) (init (cell 1 2 bare)) (init (cell 2 1 bare)) (init (cell 2 2 y))
  (<= (legal ?r (put ?x ?y)) (role ?r) (true (cell ?x ?y bare)))
  (<= (legal ?r stay) (role ?r))
  (<= (next (cell ?x ?y ?r)) (does ?r (put ?x ?y)))
  (<= (next (cell ?x ?y ?c)) (true (cell ?x ?y ?c)) (not (taken ?x ?y)))
  (<= (taken ?x ?y) (does ?r (put ?x ?y)))
  (<= terminal (true (cell 1 2 b))) (<= (goal ?r 50) (role ?r)))";

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const orchard::Game game = orchard::Game::from_text(rules).value();
  static const std::string path = "/tmp/orchard_fuzz_" + std::to_string(::getpid()) + ".claims";
  if (size == 0) return 0;
  const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
  orchard::ReviewOptions options;
  options.budget.positions = 200;
  options.allow = orchard::question_ids();
  if (data[0] % 2 == 0) {
    (void)orchard::find_position(game, text, options);
    return 0;
  }
  std::ofstream(path, std::ios::binary) << text;
  options.claims = path;
  (void)orchard::review_rules(game, options);
  return 0;
}
