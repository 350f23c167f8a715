"""The statistical model: observations, priors, changes, prediction in batches, evidence."""
