// Any text as a case file of a small game.
#include <cstdint>

#include "cases/case_file.hpp"
#include "syntax/reader.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const orchard::Game game =
      orchard::Game::from_text(
          "(role east) (role west) (init (a 1)) (<= (legal ?r (m 1)) (role ?r)) (<= (legal ?r "
          "wait) "
          "(role ?r)) (<= (next (a 2)) (does east (m 1))) (<= terminal (true (a 2))) (goal east 1)")
          .value();
  orchard::Diagnostics diagnostics;
  orchard::syntax::ReaderOptions options;
  options.strings = true;
  const auto tree = orchard::syntax::read(
      orchard::syntax::Source("fuzz.cases", std::string(reinterpret_cast<const char*>(data), size)),
      options, diagnostics);
  (void)orchard::review::read_case_file(game, tree, diagnostics);
  (void)diagnostics.render();
  return 0;
}
