// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// Costs of the ground, the ledger, many elements and single Edits.
/// @param reference  time of the frozen kernel on this machine, us
void bench_site(double reference);
void bench_workbench(double reference);
/// Water on the streets against one gutter solve and against the whole; spacing of a long street.
void bench_streets();
/// Designs of fresh pipes, plain and of least cost.
void bench_design();
/// Hydrographs of many catchments, ponds, outlets sized.
void bench_storage();
/// Remedies of single findings.
void bench_remedies();
