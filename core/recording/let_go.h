#pragma once

#include "core/recording/recording.h"

namespace rendak {

/// The samples were read and are not needed soon: those that lie in a mapped file leave this process's memory (of a day
/// that is as much as the file otherwise), and come back when somebody asks again.
void let_go_of_samples(const Recording& recording);

}  // namespace rendak
