#include "orchard/opponent.hpp"
#include "orchard/random.hpp"

namespace orchard {
namespace {

class RandomOpponent : public Opponent {
 public:
  explicit RandomOpponent(std::uint64_t seed) : random_(seed) {}
  std::string name() const override { return "random"; }
  Move choose(const Situation& situation) override {
    return situation.legal[random_.below(situation.legal.size())];
  }

 private:
  Random random_;
};

}  // namespace

std::unique_ptr<Opponent> random_opponent(std::uint64_t seed) {
  return std::make_unique<RandomOpponent>(seed);
}

}  // namespace orchard
