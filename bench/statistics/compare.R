# The same tables by general packages: time of the fit alone, warm, and what it found. Rscript compare.R FOLDER
suppressMessages({ library(lme4); library(lmerTest); library(pbkrtest) })
folder <- commandArgs(TRUE)[1]
read <- function(name, factors) { d <- read.csv(file.path(folder, paste0(name, ".csv"))); for (f in factors) d[[f]] <- factor(d[[f]]); d }
timed <- function(name, times, run) {
  result <- run()
  took <- sapply(seq_len(times), function(i) { t <- proc.time()[["elapsed"]]; for (k in seq_len(if (times > 3) 5 else 1)) run(); (proc.time()[["elapsed"]] - t) / (if (times > 3) 5 else 1) })
  cat(name, format(1000 * median(took), digits = 6), format(result, digits = 10), "\n")
}
d <- read("splitPlot", c("block", "a", "b", "main"))
timed("splitPlot", 5, function() { m <- lmer(y ~ a * b + (1 | block) + (1 | main), d); sigma(m)^2 })
d2 <- read("manySites", c("site", "block", "treatment", "cell"))
timed("manySites", 3, function() { m <- lmerTest::lmer(y ~ treatment + (1 | site) + (1 | block) + (1 | cell), d2); anova(m, ddf = "Kenward-Roger"); sigma(m)^2 })
d3 <- read("manyEntries", c("rep", "block", "entry"))
timed("manyEntries", 1, function() {
  m <- lmerTest::lmer(y ~ rep + entry + (1 | block), d3)
  l <- cbind(1, matrix(1 / 10, 200, 9), rbind(0, diag(199)))
  for (i in 1:200) contest(m, l[i, ], joint = FALSE, ddf = "Satterthwaite")
  sigma(m)^2
})
d5 <- read("manyEnvironments", c("site", "entry", "cell"))
timed("manyEnvironments", 3, function() { m <- lme4::lmer(y ~ site + (1 | entry) + (1 | cell), d5); sigma(m)^2 })
