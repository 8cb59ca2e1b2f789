#include "support/symmetric_rules.hpp"

#include <array>
#include <random>

namespace orchard::testing {

namespace {

class Writer {
 public:
  explicit Writer(std::uint64_t seed) : random_(seed) {}

  std::string write() {
    const int beds = 3 + below(3);
    const bool mirrored = below(3) > 0;
    text_ = "(role east) (role west) (other east west) (other west east)\n(init (turn east))\n";
    for (int bed = 1; bed <= beds; ++bed) {
      const int next = bed % beds + 1;
      line("(bed {}) (init (in {} bare)) (beside {} {})", {bed, bed, bed, next});
      if (mirrored) line("(beside {} {})", {next, bed});
    }
    moves();
    what_follows();
    ends();
    return text_;
  }

 private:
  int below(int bound) { return static_cast<int>(random_() % static_cast<unsigned>(bound)); }
  void line(const std::string& form, std::initializer_list<int> numbers) {
    std::string text = form;
    for (const int number : numbers) text.replace(text.find("{}"), 2, std::to_string(number));
    text_ += text + "\n";
  }
  std::string one_of(std::initializer_list<const char*> choices) {
    return *(choices.begin() + below(static_cast<int>(choices.size())));
  }

  void moves() {
    text_ += "(<= (free ?who ?bed) (true (turn ?who)) (true (in ?bed bare))" +
             one_of({"", "(not (crowded ?bed))", "(not (claimed ?who ?bed))"}) +
             ")\n(<= (legal ?who (plant ?bed)) (free ?who ?bed))\n";
    if (below(2) == 0) {
      text_ +=
          "(<= (legal ?who (dig ?bed)) (true (turn ?who)) (other ?who ?rival)"
          "(true (in ?bed ?rival))" +
          one_of({"", "(claimed ?who ?bed)"}) + ")\n";
    }
    text_ +=
        "(<= (legal ?who wait) (role ?who) (not (true (turn ?who))))\n"
        "(<= (can_plant ?who) (free ?who ?bed))\n";
    if (below(4) > 0) text_ += "(<= (legal ?who rest) (true (turn ?who)) (not (can_plant ?who)))\n";
    text_ +=
        "(<= (claimed ?who ?bed) (beside ?bed ?next) (true (in ?next ?who)))\n"
        "(<= (crowded ?bed) (beside ?bed ?next) (beside ?other ?bed) (distinct ?next ?other)"
        "(planted ?next) (planted ?other))\n"
        "(<= (planted ?bed) (role ?who) (true (in ?bed ?who)))\n";
  }

  void what_follows() {
    text_ +=
        "(<= (next (turn ?other)) (true (turn ?who)) (other ?who ?other))\n"
        "(<= (next (in ?bed ?who)) (does ?who (plant ?bed)))\n"
        "(<= (next (in ?bed bare)) (does ?who (dig ?bed)))\n"
        "(<= (touched ?bed) (or (does ?who (plant ?bed)) (does ?who (dig ?bed))))\n"
        "(<= (next (in ?bed ?what)) (true (in ?bed ?what)) (not (touched ?bed))"
        "(not (taken ?bed)))\n"
        "(<= (next (in ?bed " +
        one_of({"bare", "?who"}) +
        ")) (true (in ?bed ?rival)) (other ?who ?rival) (not (touched ?bed))"
        "(does ?who (plant ?next)) (taken ?bed))\n";
    text_ += below(2) == 0
                 ? "(<= (taken ?bed) (does ?who (plant ?next)) (beside ?next ?bed)"
                   "(other ?who ?rival) (true (in ?bed ?rival)) (not (claimed ?rival ?bed)))\n"
                 : "(<= (taken ?bed) (bed ?bed) (true (turn nobody)))\n";
  }

  void ends() {
    text_ +=
        "(<= some_bare (true (in ?bed bare)))\n"
        "(<= (pair ?who) (beside ?bed ?next) (true (in ?bed ?who)) (true (in ?next ?who)))\n"
        "(<= (rows ?who) (role ?who) (pair ?who))\n"
        "(<= terminal (not some_bare))\n";
    if (below(2) == 0) text_ += "(<= terminal (rows ?who))\n";
    text_ +=
        "(<= (goal ?who 100) (rows ?who) (other ?who ?other) (not (rows ?other)))\n"
        "(<= (goal ?who 0) (rows ?other) (other ?who ?other) (not (rows ?who)))\n"
        "(<= (goal ?who 50) (role ?who) (not (rows east)) (not (rows west)))\n";
    if (below(3) > 0) text_ += "(<= (goal ?who 50) (role ?who) (rows east) (rows west))\n";
  }

  std::mt19937_64 random_;
  std::string text_;
};

}  // namespace

std::string symmetric_rules(std::uint64_t seed) {
  return Writer(seed).write();
}

}  // namespace orchard::testing
