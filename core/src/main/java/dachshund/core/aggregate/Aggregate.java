package dachshund.core.aggregate;

import java.util.Arrays;
import java.util.Collection;
import java.util.EnumSet;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;

/**
 * What can be asked of the values of an interval, as OPC 10000-13 defines it; each carries the name that the standard gives
 * it. One set of names everywhere: trends, queries, reports, sheets and feeds.
 *
 * <p>Durations are seconds. Where the standard leaves a choice, the choice is said at the constant.
 */
public enum Aggregate {
    /** The value at the beginning of the interval, on the line between those around it that can be used, or held. */
    INTERPOLATED("interpolated", "Interpolative", By.BOUND, fold -> fold.interpolated) {
        @Override
        byte bound(Fold fold) {
            return fold.interpolatedGrade;
        }
    },
    /** Sum of the values by their number. */
    AVERAGE("average", "Average", By.VALUES, fold -> fold.count == 0 ? Double.NaN : fold.mean()),
    /** Weighted by time; bad values are bridged. */
    TIME_AVERAGE_BRIDGED(
            "time-weighted average, bad values bridged",
            "TimeAverage",
            By.TIME,
            fold -> by(fold.bridgedArea, fold.bridgedTicks)),
    /** Weighted by time; time without a value that can be used is left out. */
    TIME_AVERAGE("time-weighted average", "TimeAverage2", By.TIME, fold -> by(fold.area, fold.usableTicks)),
    /** Of a rate a second: what it comes to over the interval; bad values are bridged. */
    TOTAL_BRIDGED(
            "time-weighted total, bad values bridged",
            "Total",
            By.TIME,
            fold -> by(fold.bridgedArea, fold.bridgedTicks) * seconds(fold.to - fold.from)),
    /** Of a rate a second: what it comes to over the time in which it can be used. */
    TOTAL(
            "time-weighted total",
            "Total2",
            By.TIME,
            fold -> fold.usableTicks == 0 ? Double.NaN : fold.area / Fields.SECOND),
    MINIMUM("minimum", "Minimum", By.VALUES, fold -> fold.least) {
        @Override
        boolean twice(Fold fold) {
            return fold.leastTwice;
        }
    },
    MINIMUM_WITH_TIME("minimum with its time", "MinimumActualTime", By.VALUES, fold -> fold.least) {
        @Override
        long time(Fold fold) {
            return fold.count == 0 ? fold.from : fold.leastAt;
        }

        @Override
        boolean twice(Fold fold) {
            return fold.leastTwice;
        }
    },
    MAXIMUM("maximum", "Maximum", By.VALUES, fold -> fold.greatest) {
        @Override
        boolean twice(Fold fold) {
            return fold.greatestTwice;
        }
    },
    MAXIMUM_WITH_TIME("maximum with its time", "MaximumActualTime", By.VALUES, fold -> fold.greatest) {
        @Override
        long time(Fold fold) {
            return fold.count == 0 ? fold.from : fold.greatestAt;
        }

        @Override
        boolean twice(Fold fold) {
            return fold.greatestTwice;
        }
    },
    RANGE("range", "Range", By.VALUES, fold -> fold.greatest - fold.least),
    COUNT("count", "Count", By.VALUES, fold -> fold.count),
    /** The first value that can be used. */
    START("start", "Start", By.VALUES, fold -> fold.first) {
        @Override
        long time(Fold fold) {
            return fold.count == 0 ? fold.from : fold.firstAt;
        }
    },
    /** The last value that can be used. */
    END("end", "End", By.VALUES, fold -> fold.last) {
        @Override
        long time(Fold fold) {
            return fold.count == 0 ? fold.from : fold.lastAt;
        }
    },
    /** From the first to the last value that can be used. */
    DELTA("delta", "Delta", By.VALUES, fold -> fold.last - fold.first),
    /** The value at the beginning of the interval, from the last value alone: none where that is bad. */
    START_BOUND("value at the start", "StartBound", By.BOUND, fold -> fold.atStart),
    /** The value at the end of the interval. */
    END_BOUND("value at the end", "EndBound", By.BOUND, fold -> fold.atEnd) {
        @Override
        long time(Fold fold) {
            return fold.to;
        }
    },
    /** From the value at the beginning of the interval to that at its end. */
    DELTA_BOUNDS("change", "DeltaBounds", By.BOUND, fold -> fold.atEnd - fold.atStart),
    /** How often it changed, also from the last value before the interval. */
    TRANSITIONS("number of transitions", "NumberOfTransitions", By.VALUES, fold -> fold.transitions),
    DURATION_ZERO("duration in state zero", "DurationInStateZero", By.TIME, fold -> seconds(fold.zeroTicks)),
    DURATION_NOT_ZERO("duration in other states", "DurationInStateNonZero", By.TIME, fold -> seconds(fold.otherTicks)),
    DURATION_GOOD("duration good", "DurationGood", By.ITSELF, fold -> seconds(fold.usableTicks)),
    DURATION_BAD("duration bad", "DurationBad", By.ITSELF, fold -> seconds(fold.badTicks)),
    PERCENT_GOOD("percent good", "PercentGood", By.ITSELF, fold -> 100 * fold.goodShare()),
    /** 0 is good, 1 uncertain, 2 bad, 3 a gap. */
    WORST_QUALITY("worst quality", "WorstQuality", By.ITSELF, fold -> fold.raw == 0 ? Double.NaN : fold.worst),
    DEVIATION_SAMPLE(
            "standard deviation",
            "StandardDeviationSample",
            By.VALUES,
            fold -> fold.count == 0 ? Double.NaN : Math.sqrt(sample(fold))),
    VARIANCE_SAMPLE("variance", "VarianceSample", By.VALUES, fold -> fold.count == 0 ? Double.NaN : sample(fold)),
    DEVIATION_POPULATION(
            "standard deviation of a population",
            "StandardDeviationPopulation",
            By.VALUES,
            fold -> fold.count == 0 ? Double.NaN : Math.sqrt(fold.deviations() / fold.count)),
    VARIANCE_POPULATION(
            "variance of a population",
            "VariancePopulation",
            By.VALUES,
            fold -> fold.count == 0 ? Double.NaN : fold.deviations() / fold.count);

    /** What decides on the quality of a result. */
    private enum By {
        /** Which part of the values is good (the standard: percent values). */
        VALUES,
        /** Which part of the time is good (the standard: time weighted). */
        TIME,
        /** Whether there is a value at that place. */
        BOUND,
        /** It tells of quality itself, and is good. */
        ITSELF
    }

    private static final class Fields {
        static final double SECOND = 10_000_000.0;
        static final Set<Fold.Part> EXTREMES = EnumSet.of(Fold.Part.EXTREMES);
        static final Set<Fold.Part> MOMENTS = EnumSet.of(Fold.Part.MOMENTS);
        static final Set<Fold.Part> AREA = EnumSet.of(Fold.Part.AREA);
        static final Set<Fold.Part> CHANGES = EnumSet.of(Fold.Part.CHANGES);
        static final Set<Fold.Part> NONE = EnumSet.noneOf(Fold.Part.class);
        /** What each one needs, for speed. */
        static final int[] BITS = Arrays.stream(Aggregate.values())
                .mapToInt(each -> Fold.Part.bits(each.parts()))
                .toArray();
    }

    @FunctionalInterface
    private interface Of {
        double value(Fold fold);
    }

    private final String words;
    private final String part13;
    private final By by;
    private final Of of;

    Aggregate(String words, String part13, By by, Of of) {
        this.words = words;
        this.part13 = part13;
        this.by = by;
        this.of = of;
    }

    /** What people call it. */
    public String words() {
        return words;
    }

    /** Its name in OPC 10000-13. */
    public String part13() {
        return part13;
    }

    /** By either of its names. */
    public static Optional<Aggregate> read(String name) {
        String wanted = name.strip().toLowerCase(Locale.ROOT);
        return Arrays.stream(values())
                .filter(each -> each.words.equals(wanted)
                        || each.part13.toLowerCase(Locale.ROOT).equals(wanted))
                .findFirst();
    }

    private static double by(double area, long ticks) {
        return ticks == 0 ? Double.NaN : area / ticks;
    }

    private static double seconds(long ticks) {
        return ticks / Fields.SECOND;
    }

    /** Of one value it is 0, as the standard says. */
    private static double sample(Fold fold) {
        return fold.count == 1 ? 0 : fold.deviations() / (fold.count - 1);
    }

    long time(Fold fold) {
        return fold.from;
    }

    boolean twice(Fold fold) {
        return false;
    }

    byte bound(Fold fold) {
        return Samples.GOOD;
    }

    /** What has to be folded for it. */
    public Set<Fold.Part> parts() {
        return switch (this) {
            case MINIMUM, MINIMUM_WITH_TIME, MAXIMUM, MAXIMUM_WITH_TIME, RANGE -> Fields.EXTREMES;
            case AVERAGE, DEVIATION_SAMPLE, VARIANCE_SAMPLE, DEVIATION_POPULATION, VARIANCE_POPULATION ->
                Fields.MOMENTS;
            case TIME_AVERAGE_BRIDGED, TIME_AVERAGE, TOTAL_BRIDGED, TOTAL -> Fields.AREA;
            case TRANSITIONS, DURATION_ZERO, DURATION_NOT_ZERO -> Fields.CHANGES;
            default -> Fields.NONE;
        };
    }

    /** What has to be folded for all of them. */
    public static Set<Fold.Part> parts(Collection<Aggregate> these) {
        Set<Fold.Part> all = EnumSet.noneOf(Fold.Part.class);
        these.forEach(each -> all.addAll(each.parts()));
        return all;
    }

    /**
     * What it comes to for an interval.
     *
     * @throws IllegalStateException where that was folded without its {@link #parts()}
     */
    public Result of(Fold fold, Method method) {
        double value = of.value(fold.with(Fields.BITS[ordinal()]));
        return new Result(time(fold), value, grade(fold, value, method), fold.goodShare(), twice(fold));
    }

    private byte grade(Fold fold, double value, Method method) {
        if (by == By.ITSELF) {
            return Samples.GOOD;
        }
        if (Double.isNaN(value)) {
            return Samples.BAD;
        }
        return switch (by) {
            case VALUES -> grade(fold.count - fold.uncertain, fold.raw - fold.count, fold.raw, method);
            case TIME -> grade(fold.usableTicks - fold.uncertainTicks, fold.badTicks, fold.to - fold.from, method);
            default -> bound(fold);
        };
    }

    private static byte grade(long good, long bad, long all, Method method) {
        if (all == 0) {
            return Samples.GOOD;
        }
        if (100.0 * good >= (double) method.percentGood() * all) {
            return Samples.GOOD;
        }
        return 100.0 * bad >= (double) method.percentBad() * all ? Samples.BAD : Samples.UNCERTAIN;
    }
}
