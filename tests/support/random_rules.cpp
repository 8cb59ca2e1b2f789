// Relations are made in strata: a body looks at relations of lower strata, positively or negated,
// and positively at relations of its own stratum, which makes recursion. Every variable of a head,
// negation or comparison is bound by a positive condition placed first.
#include "support/random_rules.hpp"

#include <fmt/core.h>

#include <vector>

#include "orchard/random.hpp"

namespace orchard::testing {
namespace {

class Writer {
 public:
  explicit Writer(std::uint64_t seed) : random_(seed) {}

  std::string write() {
    for (int r = 0; r < roles_; ++r) line(fmt::format("(role r{})", r));
    facts();
    for (int s = 0; s < 3; ++s) {
      for (int n = 0; n < 2; ++n) names_.push_back({fmt::format("p{}{}", s, n), 1 + pick(2), s});
    }
    for (const Name& name : names_) {
      for (std::size_t i = 0; i < 1 + pick(3); ++i) rule(name);
    }
    moves();
    nexts();
    ends();
    return text_;
  }

 private:
  struct Name {
    std::string name;
    std::size_t arity;
    int stratum;
  };

  std::size_t pick(std::size_t bound) { return random_.below(bound); }
  bool chance(std::size_t percent) { return pick(100) < percent; }
  void line(const std::string& text) { text_ += text + "\n"; }
  std::string constant() { return fmt::format("c{}", pick(3)); }
  std::string variable() { return fmt::format("?v{}", pick(3)); }
  std::string argument() { return chance(75) ? variable() : constant(); }

  // A term of one of the fluents' shapes.
  std::string fluent() {
    switch (pick(4)) {
      case 0:
        return fmt::format("(f {})", argument());
      case 1:
        return fmt::format("(g {} {})", argument(), argument());
      case 2:
        return fmt::format("(f (h {}))", argument());
      default:
        return "lone";
    }
  }

  std::string positive(int stratum) {
    if (chance(35)) return fmt::format("(true {})", fluent());
    if (chance(10)) return fmt::format("(true {})", variable());
    if (chance(30)) return fmt::format("(e {} {})", argument(), argument());
    std::vector<const Name*> known;
    for (const Name& name : names_) {
      if (name.stratum <= stratum) known.push_back(&name);
    }
    if (known.empty()) return fmt::format("(d {})", argument());
    return atom(*known[pick(known.size())]);
  }

  std::string atom(const Name& name) {
    std::string text = "(" + name.name;
    for (std::size_t i = 0; i < name.arity; ++i) text += " " + argument();
    return text + ")";
  }

  std::string test(int stratum) {
    if (chance(30)) return fmt::format("(distinct {} {})", argument(), argument());
    if (chance(15)) return fmt::format("(not (distinct {} {}))", argument(), argument());
    if (chance(30) || stratum == 0) return fmt::format("(not (true {}))", fluent());
    std::string inner;
    for (const Name& name : names_) {
      if (name.stratum < stratum && (inner.empty() || chance(50))) inner = atom(name);
    }
    if (chance(25)) return fmt::format("(not (or {} (e {} {})))", inner, argument(), argument());
    return fmt::format("(not {})", inner);
  }

  // Conditions that bind all three variables, then some more, then tests.
  std::string body(int stratum, const std::string& extra = {}) {
    std::string text;
    for (int v = 0; v < 3; ++v) text += fmt::format(" (d ?v{})", v);
    text += extra;
    for (std::size_t i = 0; i < 1 + pick(2); ++i) text += " " + positive(stratum);
    if (chance(20)) text += fmt::format(" (or {} {})", positive(stratum), positive(stratum));
    for (std::size_t i = 0; i < pick(3); ++i) text += " " + test(stratum);
    return text;
  }

  void facts() {
    for (int c = 0; c < 3; ++c) line(fmt::format("(d c{})", c));
    for (int i = 0; i < 4; ++i) line(fmt::format("(e {} {})", constant(), constant()));
    line("(init lone)");
    for (int c = 0; c < 3; ++c) {
      if (chance(50)) line(fmt::format("(init (f c{}))", c));
      if (chance(50)) line(fmt::format("(init (g c{} {}))", c, constant()));
      if (chance(30)) line(fmt::format("(init (f (h c{})))", c));
    }
  }

  void rule(const Name& name) { line(fmt::format("(<= {}{})", atom(name), body(name.stratum))); }

  void moves() {
    for (int r = 0; r < roles_; ++r) {
      line(fmt::format("(legal r{} stay)", r));
      line(fmt::format("(<= (legal r{} (m {})){})", r, argument(), body(2)));
      if (chance(50)) {
        line(fmt::format("(<= (legal r{} (k {} {})){})", r, argument(), argument(), body(2)));
      }
    }
  }

  std::string doing() {
    if (chance(40)) return fmt::format(" (does r{} (m {}))", pick(2), argument());
    if (chance(30)) return fmt::format(" (does ?who (k {} {}))", argument(), argument());
    if (chance(50)) return fmt::format(" (does r{} ?what)", pick(2));
    return fmt::format(" (not (does r{} stay))", pick(2));
  }

  void nexts() {
    for (int i = 0; i < 4; ++i) {
      line(fmt::format("(<= (next {}){})", fluent(), body(2, doing())));
    }
    line("(<= (next (g ?v0 ?v1)) (true (g ?v0 ?v1)) (does r0 stay))");
    line(fmt::format("(<= (next {}){})", fluent(), body(2)));
    line(fmt::format("(<= (sees r0 {}){})", fluent(), body(2, doing())));
  }

  void ends() {
    line(fmt::format("(<= terminal{} (true (f c0)) (true (g c1 c2)))", body(2)));
    for (int r = 0; r < roles_; ++r) {
      line(fmt::format("(<= (goal r{} 100){})", r, body(2)));
      line(fmt::format("(<= (goal r{} 0) (not (true lone)))", r));
    }
  }

  static constexpr int roles_ = 2;
  Random random_;
  std::string text_;
  std::vector<Name> names_;
};

}  // namespace

std::string random_rules(std::uint64_t seed) {
  return Writer(seed).write();
}

}  // namespace orchard::testing
