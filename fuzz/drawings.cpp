// Drawing rules, drawn boards, lines of play and questions: the first byte tells which.
#include <cstddef>
#include <cstdint>
#include <string>

#include "orchard/explain.hpp"
#include "orchard/line.hpp"
#include "orchard/picture.hpp"

namespace {

constexpr const char* rules = R"(
  (role a) (role b) (row 1) (row 2)
  (init (cell 1 1 x)) (init (cell 1 2 bare)) (init (cell 2 1 bare)) (init (cell 2 2 y))
  (<= (legal ?r (put ?x ?y)) (role ?r) (true (cell ?x ?y bare)))
  (<= (legal ?r stay) (role ?r))
  (<= (next (cell ?x ?y ?r)) (does ?r (put ?x ?y)))
  (<= (next (cell ?x ?y ?c)) (true (cell ?x ?y ?c)) (not (does a (put ?x ?y))))
  (<= terminal (true (cell 1 1 b))) (<= (goal ?r 50) (role ?r)))";
constexpr const char* drawing = R"(
  (<= (draw (square ?x ?y)) (row ?x) (row ?y))
  (<= (draw (piece (at ?x ?y) (letter ?c) a)) (true (cell ?x ?y ?c)) (distinct ?c bare)))";

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const orchard::Game game = orchard::Game::from_text(rules).value();
  static const orchard::Picture picture =
      orchard::Picture::from_text(game, drawing, "d.draw").value();
  if (size == 0) return 0;
  std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
  switch (data[0] % 4) {
    case 0: {
      const auto read = orchard::Picture::from_text(game, text, "f.draw");
      if (read) {
        (void)read->text({game.initial()});
        (void)read->svg({{game.initial()}});
        (void)read->drawn(game.initial());
      }
      break;
    }
    case 1:
      (void)picture.read_drawn(text, {});
      break;
    case 2:
      (void)orchard::play_line(game, game.initial(), text);
      break;
    default: {
      const auto question = orchard::Question::parse(game, text);
      if (question) {
        const auto answer = orchard::why(game, {game.initial()}, *question);
        if (answer) (void)answer->text();
      }
    }
  }
  return 0;
}
