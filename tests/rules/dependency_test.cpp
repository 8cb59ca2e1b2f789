#include "rules/dependency.hpp"

#include <gtest/gtest.h>

#include <fmt/core.h>

#include "orchard/random.hpp"

namespace orchard::rules::dependency_test {
namespace {

std::shared_ptr<const Description> description_of(const std::string& rules) {
  Diagnostics diagnostics;
  auto result = Description::build(syntax::Source("", "(role r)" + rules), {}, diagnostics);
  EXPECT_NE(result, nullptr) << diagnostics.render();
  return result;
}

TEST(Dependency, TellsPhases) {
  const auto description = description_of(
      "(d 1) (<= (p ?x) (d ?x)) (<= (q ?x) (p ?x) (true (f ?x)))"
      "(<= (s ?x) (q ?x) (does r ?x)) (<= (next (f ?x)) (s ?x)) (<= (legal r ?x) (q ?x))");
  const Dependency dependency(*description);
  const auto phase = [&](const char* name, std::uint32_t arity) {
    return dependency.phase(*description->find(name, arity));
  };
  EXPECT_EQ(phase("p", 1), Phase::constant);
  EXPECT_EQ(phase("q", 1), Phase::position);
  EXPECT_EQ(phase("legal", 2), Phase::position);
  EXPECT_EQ(phase("s", 1), Phase::step);
  EXPECT_EQ(phase("next", 1), Phase::step);
}

// On random graphs: members of a component reach one another, others do not, and components come
// after those they use. Reachability is recomputed by closing a matrix.
TEST(Dependency, ComponentsAreThoseOfTheGraph) {
  for (std::uint64_t seed = 0; seed < 100; ++seed) {
    Random random(seed);
    constexpr int count = 8;
    bool reach[count][count] = {};
    std::string rules;
    for (int i = 0; i < count; ++i) rules += fmt::format("(p{} 1)", i);
    for (int i = 0; i < count; ++i) {
      for (int j = 0; j < count; ++j) {
        if (random.below(100) >= 15) continue;
        reach[i][j] = true;
        rules += fmt::format("(<= (p{} ?x) (p{} ?x))", i, j);
      }
    }
    const auto description = description_of(rules);
    const Dependency dependency(*description);
    for (int k = 0; k < count; ++k) {
      for (int i = 0; i < count; ++i) {
        for (int j = 0; j < count; ++j) reach[i][j] |= reach[i][k] && reach[k][j];
      }
    }
    const auto component = [&](int i) {
      return dependency.component(*description->find(fmt::format("p{}", i), 1));
    };
    for (int i = 0; i < count; ++i) {
      EXPECT_EQ(dependency.is_recursive(component(i)), reach[i][i]) << "seed " << seed;
      for (int j = 0; j < count; ++j) {
        if (i == j) continue;
        EXPECT_EQ(component(i) == component(j), reach[i][j] && reach[j][i]) << "seed " << seed;
        EXPECT_TRUE(!reach[i][j] || component(i) >= component(j)) << "seed " << seed;
      }
    }
  }
}

}  // namespace
}  // namespace orchard::rules::dependency_test
