// Every reachable position checked, and a claim of one's own:
// check_a_claim games/espalier_3x3.gdl "(can-force east (wins east))"
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  orchard::ReviewOptions options;
  options.claims_text = std::string("(claim \"mine\" ") + argv[2] + ")";
  const auto review = orchard::review_rules(*game, options);
  if (!review) {
    std::cerr << review.diagnostics().render();
    return 2;
  }
  for (const auto* answers : {&review->questions, &review->claims}) {
    for (const orchard::Answer& answer : *answers) {
      std::cout << answer.id << ": " << orchard::name_of(answer.verdict) << ", "
                << answer.evidence.text() << '\n';
      if (answer.verdict != orchard::Verdict::fails || !answer.line) continue;
      for (const orchard::JointMove& joint : answer.line->joints)
        std::cout << "   " << joint << '\n';
    }
  }
  return review->failed() ? 1 : review->undecided() ? 3 : 0;
}
