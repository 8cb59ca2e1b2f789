#include "cli/revision.hpp"

#include <fmt/core.h>
#include <git2.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <memory>
#include <set>

#include "base/file.hpp"

namespace orchard::cli {
namespace {

namespace fs = std::filesystem;

struct Library {
  Library() { git_libgit2_init(); }
  ~Library() { git_libgit2_shutdown(); }
};

template <class T, void (*free)(T*)>
struct Freed {
  void operator()(T* object) const { free(object); }
};
template <class T, void (*free)(T*)>
using Owned = std::unique_ptr<T, Freed<T, free>>;

Diagnostic no_revision(const std::string& path, const std::string& why, const std::string& remedy) {
  Diagnostic fault = plain_error("no-revision", why, remedy);
  fault.place.file = path;
  return fault;
}

// What descriptions are made of is copied to where it lay.
struct Copying {
  git_repository* repository;
  fs::path to;
  Diagnostics faults{};
};

int copy_entry(const char* root, const git_tree_entry* entry, void* payload) {
  auto& copying = *static_cast<Copying*>(payload);
  if (git_tree_entry_type(entry) != GIT_OBJECT_BLOB) return 0;
  static const std::set<std::string> kinds = {".gdl", ".gdli", ".draw", ".claims"};
  const fs::path file = fs::path(root) / git_tree_entry_name(entry);
  if (!kinds.contains(file.extension().string())) return 0;
  git_blob* found = nullptr;
  if (git_blob_lookup(&found, copying.repository, git_tree_entry_id(entry)) != 0) return 0;
  const Owned<git_blob, git_blob_free> blob(found);
  std::error_code error;
  fs::create_directories((copying.to / file).parent_path(), error);
  copying.faults.append(write_whole_file(
      (copying.to / file).string(),
      {static_cast<const char*>(git_blob_rawcontent(found)), git_blob_rawsize(found)}));
  return copying.faults.empty() ? 0 : -1;
}

}  // namespace

TemporaryCopy::TemporaryCopy() {
  std::error_code error;
  std::string name = (fs::temp_directory_path(error) / "orchard-XXXXXX").string();
  if (::mkdtemp(name.data()) != nullptr) folder_ = name;
}

TemporaryCopy::~TemporaryCopy() {
  std::error_code ignored;
  if (!folder_.empty()) fs::remove_all(folder_, ignored);
}

Result<OldFile> file_at(const std::string& path, const std::string& revision) {
  const Library library;
  std::error_code error;
  const fs::path whole = fs::weakly_canonical(path, error);
  git_repository* opened = nullptr;
  if (git_repository_open_ext(&opened, whole.parent_path().c_str(), 0, nullptr) != 0) {
    return no_revision(path, "this file lies in no version-control repository",
                       "name the other description instead: orchard compare OLD NEW");
  }
  const Owned<git_repository, git_repository_free> repository(opened);
  git_object* object = nullptr;
  if (git_revparse_single(&object, opened, (revision + "^{tree}").c_str()) != 0) {
    return no_revision(path, fmt::format("the repository has no revision {}", revision),
                       "HEAD is the last one, HEAD~1 the one before");
  }
  const Owned<git_object, git_object_free> tree(object);
  OldFile old{TemporaryCopy(), {}};
  Copying copying{opened, old.copy.folder()};
  git_tree_walk(reinterpret_cast<git_tree*>(object), GIT_TREEWALK_PRE, copy_entry, &copying);
  if (!copying.faults.empty()) return copying.faults;
  const char* const workdir = git_repository_workdir(opened);
  const fs::path within =
      workdir == nullptr ? whole.filename() : fs::relative(whole, fs::canonical(workdir, error));
  old.path = (fs::path(old.copy.folder()) / within).string();
  if (!fs::exists(old.path, error)) {
    return no_revision(path, fmt::format("revision {} does not have this file", revision),
                       "name a later revision, or the other description instead");
  }
  return old;
}

}  // namespace orchard::cli
