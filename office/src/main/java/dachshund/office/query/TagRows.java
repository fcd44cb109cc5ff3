package dachshund.office.query;

import dachshund.core.aggregate.Above;
import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Counter;
import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Percentile;
import dachshund.core.aggregate.Result;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Series;
import dachshund.core.destination.StoreProblem;
import dachshund.core.query.TagHistory;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.query.TagHistory.Mode;
import dachshund.core.reader.Period;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import dachshund.core.window.Context;
import dachshund.core.window.Span;
import dachshund.engine.Engine;
import dachshund.office.archive.Histories;
import dachshund.office.query.MeantTags.Tag;
import dachshund.office.window.Windows;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Function;
import java.util.function.Supplier;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/** The history of tags as rows: of the archive, and of the tag table where the latest values are asked for. */
@Component
class TagRows {

    /** Of an outline, across the window. */
    private static final int POINTS = 500;

    private static final int MOST_PERIODS = 100_000;

    private final Histories histories;
    private final PlantClock clock;
    private final Supplier<Context> here;
    private final Function<TagRef, TagValue> latest;

    @Autowired
    TagRows(Histories histories, Engine engine, Windows windows) {
        this(histories, engine.clock(), windows::here, tag -> engine.tags()
                .entry(tag)
                .value());
    }

    /** @param latest value of a tag */
    TagRows(Histories histories, PlantClock clock, Supplier<Context> here, Function<TagRef, TagValue> latest) {
        this.histories = histories;
        this.clock = clock;
        this.here = here;
        this.latest = latest;
    }

    /** What may take long says so here, and is broken off. */
    private record Until(long nanos, Duration limit, AtomicBoolean unwanted) {
        static Until in(Duration limit) {
            return new Until(System.nanoTime() + limit.toNanos(), limit, new AtomicBoolean());
        }

        void check() throws StoreProblem {
            if (unwanted.get()) {
                throw new StoreProblem(StoreProblem.Kind.BUSY, -1, "It was broken off.", null);
            }
            if (System.nanoTime() - nanos > 0) {
                throw new StoreProblem(
                        StoreProblem.Kind.BUSY,
                        -1,
                        "The archive took longer than " + limit.toSeconds()
                                + " s for it, and was broken off. Ask for a shorter window, fewer tags or longer periods.",
                        null);
            }
        }
    }

    long give(
            TagHistory query, List<Tag> tags, Optional<Span> span, Duration limit, long most, TableReading.Taker taker)
            throws StoreProblem, QueryProblem {
        Until until = Until.in(limit);
        taker.running(() -> until.unwanted().set(true));
        List<TagPoints> points = new ArrayList<>();
        Map<Long, String> names = new HashMap<>();
        try {
            if (query.mode().periodic()) {
                List<Period> periods = periods(query, span.orElseThrow());
                long cells = (long) periods.size()
                        * tags.size()
                        * Math.max(1, query.of().size());
                if (cells > Histories.AT_ONCE) {
                    throw new QueryProblem("That would be " + cells + " values, and no more than "
                            + Histories.AT_ONCE
                            + " are given at once. Take a shorter window, longer periods, or fewer tags.");
                }
                query.per()
                        .filter(per -> per.named())
                        .ifPresent(
                                per -> periods.forEach(each -> names.put(OpcUaTime.toTicks(each.from()), each.name())));
                for (Tag tag : tags) {
                    until.check();
                    points.add(
                            query.mode() == Mode.EVEN
                                    ? even(tag, periods, until)
                                    : aggregated(tag, query.of(), periods, until));
                }
            } else {
                long left = Histories.AT_ONCE;
                for (Tag tag : tags) {
                    until.check();
                    points.add(
                            switch (query.mode()) {
                                case LATEST -> latest(tag);
                                case OUTLINE -> outline(tag, span.orElseThrow());
                                default -> every(tag, span.orElseThrow(), left);
                            });
                    left -= points.get(points.size() - 1).size();
                }
            }
        } catch (Problem away) {
            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, away.getMessage(), away);
        }
        String period = query.per()
                .filter(per -> query.mode().periodic() && per.named())
                .map(per -> per.words())
                .orElse("");
        return new PointRows(query, tags, points, period, names).give(most, taker);
    }

    /** Clipped to the window, so that nothing outside it counts. */
    private List<Period> periods(TagHistory query, Span span) throws QueryProblem {
        if (query.per().isPresent()) {
            return query.per().get().in(span, here.get()).stream()
                    .map(each -> new Period(
                            each.name(),
                            each.from().isBefore(span.from()) ? span.from() : each.from(),
                            each.to().isAfter(span.to()) ? span.to() : each.to()))
                    .toList();
        }
        if (span.length().dividedBy(query.every()) >= MOST_PERIODS) {
            throw new QueryProblem("This window has more than " + MOST_PERIODS
                    + " periods of this length. Take a shorter window, or longer periods.");
        }
        List<Period> all = new ArrayList<>();
        for (Instant at = span.from(); at.isBefore(span.to()); ) {
            Instant next = at.plus(query.every());
            all.add(new Period("", at, next.isAfter(span.to()) ? span.to() : next));
            at = next;
        }
        return all;
    }

    /** Periods that follow each other and are of one length are folded together. */
    private interface Run {
        void run(List<Period> periods, long from, long to, long step) throws Problem, StoreProblem;
    }

    private static void runs(List<Period> periods, Until until, Run run) throws Problem, StoreProblem {
        int first = 0;
        while (first < periods.size()) {
            Duration length = length(periods.get(first));
            int next = first + 1;
            while (next < periods.size()
                    && periods.get(next).from().equals(periods.get(next - 1).to())
                    && length(periods.get(next)).equals(length)) {
                next++;
            }
            until.check();
            List<Period> some = periods.subList(first, next);
            long from = OpcUaTime.toTicks(some.get(0).from());
            run.run(some, from, OpcUaTime.toTicks(some.get(some.size() - 1).to()), length.toNanos() / 100);
            first = next;
        }
    }

    private static Duration length(Period period) {
        return Duration.between(period.from(), period.to());
    }

    private TagPoints aggregated(Tag tag, List<Calculation> all, List<Period> periods, Until until)
            throws Problem, StoreProblem {
        TagPoints.Listed points = new TagPoints.Listed();
        boolean folded = all.stream().anyMatch(Calculation.OfPart13.class::isInstance);
        Set<Fold.Part> parts = Aggregate.parts(all.stream()
                .filter(Calculation.OfPart13.class::isInstance)
                .map(each -> ((Calculation.OfPart13) each).aggregate())
                .toList());
        runs(periods, until, (some, from, to, step) -> {
            List<Fold> folds = new ArrayList<>();
            if (folded) {
                histories.fold(tag.ref(), from, to, step, tag.method(), parts, folds::add);
            }
            Optional<Samples> samples = all.stream().allMatch(Calculation.OfPart13.class::isInstance)
                    ? Optional.empty()
                    : Optional.of(samples(tag, from, to));
            List<List<Object>> columns = new ArrayList<>();
            for (Calculation each : all) {
                columns.add(column(each, tag, folds, samples, some, step));
            }
            for (int i = 0; i < some.size(); i++) {
                List<Object> cells = new ArrayList<>();
                for (List<Object> column : columns) {
                    cells.add(column.get(i));
                }
                if (folded) {
                    cells.add(number(100 * folds.get(i).goodShare()));
                }
                points.add(OpcUaTime.toTicks(some.get(i).from()), cells.toArray());
            }
        });
        return points;
    }

    private Samples samples(Tag tag, long from, long to) throws Problem, StoreProblem {
        Instant begin = OpcUaTime.toInstant(from);
        Instant end = OpcUaTime.toInstant(to);
        few(tag, histories.count(tag.ref(), begin, end), Histories.AT_ONCE);
        return histories.read(tag.ref(), begin, end).series().samples();
    }

    private static void few(Tag tag, long count, long most) throws StoreProblem {
        if (count > most) {
            throw new StoreProblem(
                    StoreProblem.Kind.TABLE,
                    -1,
                    tag.name() + " alone has about " + count + " values in this window, and no more than "
                            + Histories.AT_ONCE
                            + " are read at once. Ask for a shorter window, or for aggregates of it.",
                    null);
        }
    }

    private List<Object> column(
            Calculation what, Tag tag, List<Fold> folds, Optional<Samples> samples, List<Period> periods, long step) {
        if (what instanceof Calculation.OfPart13 of) {
            return folds.stream()
                    .<Object>map(fold -> part13(of.aggregate(), fold, tag.method()))
                    .toList();
        }
        Samples values = samples.orElseThrow();
        long from = OpcUaTime.toTicks(periods.get(0).from());
        long to = OpcUaTime.toTicks(periods.get(periods.size() - 1).to());
        if (what instanceof Calculation.Increase increase) {
            Counter counter =
                    increase.rollsOver() > 0 ? Counter.thatRollsOver(increase.rollsOver()) : Counter.thatIsReset();
            return counter.over(values, tag.method(), from, to, step).stream()
                    .<Object>map(result -> number(result.value()))
                    .toList();
        }
        long now = OpcUaTime.toTicks(clock.now());
        List<Object> column = new ArrayList<>();
        for (Period each : periods) {
            long begin = OpcUaTime.toTicks(each.from());
            long end = OpcUaTime.toTicks(each.to());
            column.add(number(
                    what instanceof Calculation.OfPercent percentile
                            ? Percentile.of(values, tag.method(), percentile.percent(), begin, end)
                            : Above.seconds(
                                    values,
                                    tag.method(),
                                    ((Calculation.TimeAbove) what).limit(),
                                    begin,
                                    end,
                                    Math.min(end, now))));
        }
        return column;
    }

    private static Object part13(Aggregate aggregate, Fold fold, Method method) {
        Result result = aggregate.of(fold, method);
        return result.present() && result.grade() != Samples.BAD || aggregate == Aggregate.WORST_QUALITY
                ? number(result.value())
                : null;
    }

    private static Double number(double value) {
        return Double.isFinite(value) ? (Double) value : null;
    }

    private TagPoints even(Tag tag, List<Period> periods, Until until) throws Problem, StoreProblem {
        TagPoints.Listed points = new TagPoints.Listed();
        if (tag.numeric()) {
            runs(
                    periods,
                    until,
                    (some, from, to, step) -> histories.fold(
                            tag.ref(), from, to, step, tag.method(), Aggregate.INTERPOLATED.parts(), fold -> {
                                Result result = Aggregate.INTERPOLATED.of(fold, tag.method());
                                points.add(
                                        fold.from(),
                                        result.grade() == Samples.BAD ? null : number(result.value()),
                                        grade(result.grade()));
                            }));
            return points;
        }
        Instant first = periods.get(0).from();
        Instant last = periods.get(periods.size() - 1).to();
        few(tag, histories.count(tag.ref(), first, last), Histories.AT_ONCE);
        Series series = histories.read(tag.ref(), first, last).series();
        Instant now = clock.now();
        for (Period each : periods) {
            long at = OpcUaTime.toTicks(each.from());
            int index = series.before(at + 1) - 1;
            boolean known = index >= 0 && !each.from().isAfter(now);
            TagValue value = known ? Histories.value(series, index) : TagValue.NONE;
            points.add(at, cell(value), words(value.quality()));
        }
        return points;
    }

    private TagPoints every(Tag tag, Span span, long most) throws Problem, StoreProblem {
        few(tag, histories.count(tag.ref(), span.from(), span.to()), Histories.AT_ONCE);
        Series series = histories.read(tag.ref(), span.from(), span.to()).series();
        int first = series.before(OpcUaTime.toTicks(span.from()));
        int count = series.before(OpcUaTime.toTicks(span.to())) - first;
        if (count > most) {
            throw new StoreProblem(
                    StoreProblem.Kind.TABLE,
                    -1,
                    "These tags have more than " + Histories.AT_ONCE
                            + " values in this window. Ask for a shorter one, for fewer tags, or for aggregates.",
                    null);
        }
        return new TagPoints.Made(count, index -> series.time(first + index), index -> {
            TagValue value = Histories.value(series, first + index);
            return new Object[] {cell(value), words(value.quality())};
        });
    }

    private TagPoints outline(Tag tag, Span span) throws Problem, StoreProblem {
        if (!tag.numeric()) {
            return every(tag, span, Histories.AT_ONCE);
        }
        TagPoints.Listed points = new TagPoints.Listed();
        Samples outline = histories.outline(
                tag.ref(), span.from(), span.to(), POINTS, tag.method().stepped());
        for (int i = 0; i < outline.size(); i++) {
            boolean bad = outline.grade(i) == Samples.BAD || outline.grade(i) == Samples.GAP;
            points.add(outline.time(i), bad ? null : number(outline.value(i)), grade(outline.grade(i)));
        }
        return points;
    }

    private TagPoints latest(Tag tag) {
        TagPoints.Listed points = new TagPoints.Listed();
        TagValue value = latest.apply(tag.ref());
        points.add(OpcUaTime.toTicks(value.sourceTime()), cell(value), words(value.quality()));
        return points;
    }

    private static Object cell(TagValue value) {
        Object cell = value.value().orElse(null);
        return value.quality().grade() == Quality.Grade.BAD
                ? null
                : cell instanceof Number number && !(cell instanceof Double)
                        ? (Object) number.longValue()
                        : cell instanceof Double number ? number(number) : cell;
    }

    private static String words(Quality quality) {
        String grade = quality.grade().name().toLowerCase(Locale.ROOT);
        return quality.words().isEmpty() || quality.words().equalsIgnoreCase(grade)
                ? grade
                : grade + ": " + quality.words();
    }

    private static String grade(byte grade) {
        return switch (grade) {
            case Samples.BAD, Samples.GAP -> "bad";
            case Samples.UNCERTAIN -> "uncertain";
            default -> "good";
        };
    }
}
