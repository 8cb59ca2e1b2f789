#include "circuit/lanes/executor.hpp"

namespace orchard::circuit {

std::string_view name_of(Executor::Kind kind) {
  switch (kind) {
    case Executor::Kind::interpreter:
      return "interpreter";
    case Executor::Kind::avx2:
      return "avx2";
    case Executor::Kind::avx512:
      return "avx512";
  }
  return {};
}

std::unique_ptr<Executor> make_executor(const LaneProgram& program,
                                        std::optional<Executor::Kind> kind) {
  if (kind == Executor::Kind::interpreter) return make_interpreter(program);
  if (kind == Executor::Kind::avx2) return make_avx2(program);
  if (kind == Executor::Kind::avx512) return make_avx512(program);
  if (auto code = make_avx512(program)) return code;
  if (auto code = make_avx2(program)) return code;
  return make_interpreter(program);
}

#if !defined(__x86_64__)
std::unique_ptr<Executor> make_avx2(const LaneProgram& /*program*/) {
  return nullptr;
}
std::unique_ptr<Executor> make_avx512(const LaneProgram& /*program*/) {
  return nullptr;
}
#endif

}  // namespace orchard::circuit
