package dachshund.links.modbus;

import dachshund.core.modbus.ModbusPoint;
import dachshund.core.modbus.ModbusValues;
import dachshund.core.modbus.ReadPlan;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.links.network.GrowingPause;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/**
 * One device (unit id) and what is read from it. A device that does not answer is asked again after a growing pause, so
 * that it does not take the line from the others; a request that is refused because registers in its gaps do not exist
 * is cut where the gaps are, from then on.
 */
final class ModbusUnit {

    private static final int NO_SUCH_ADDRESS = 2;

    private final int unit;
    private final PlantClock clock;
    private final Duration rate;
    private final GrowingPause pause = new GrowingPause();
    private final Map<ModbusPoint, List<TagInfo>> tags;
    private final Map<ModbusPoint, TagValue> latest = new ConcurrentHashMap<>();
    private final ReadPlan.Limits limits;
    private volatile List<ReadPlan.Request> plan;
    private volatile boolean gapsCut;
    private volatile String trouble = "";

    ModbusUnit(int unit, List<TagInfo> tags, ReadPlan.Limits limits, Duration rate, PlantClock clock) {
        this.unit = unit;
        this.limits = limits;
        this.rate = rate;
        this.clock = clock;
        this.tags = tags.stream().collect(Collectors.groupingBy(tag -> ModbusPoint.read(tag.how())));
        this.plan = ReadPlan.of(this.tags.keySet(), limits);
    }

    int unit() {
        return unit;
    }

    /** Why the device does not answer, in words; empty where it does. */
    String trouble() {
        return trouble;
    }

    int requests() {
        return plan.size();
    }

    boolean gapsCut() {
        return gapsCut;
    }

    /**
     * Reads everything once.
     *
     * @param deliver takes what was read, all of the device together
     * @return the pause until the next reading, counted from its end
     */
    CompletableFuture<Duration> poll(ModbusConnection connection, Consumer<List<TagChange>> deliver) {
        long from = System.nanoTime();
        List<TagChange> batch = new ArrayList<>();
        CompletableFuture<Void> all = CompletableFuture.completedFuture(null);
        for (ReadPlan.Request request : plan) {
            all = all.thenCompose(done -> ask(connection, request, batch));
        }
        return all.handle((done, failed) -> {
            if (failed == null) {
                trouble = "";
                pause.worked();
                deliver.accept(batch);
                return rate.minusNanos(System.nanoTime() - from);
            }
            trouble = ModbusConnection.words(failed);
            deliver.accept(bad(tags.keySet(), "unit " + unit + ": " + trouble, Quality.AWAY.code()));
            return pause.next();
        });
    }

    /** Fails only where the device does not answer; what it refuses becomes bad values. */
    private CompletableFuture<Void> ask(ModbusConnection connection, ReadPlan.Request request, List<TagChange> batch) {
        return connection
                .read(unit, request.table(), request.from(), request.count())
                .handle((answer, failed) -> {
                    if (failed == null) {
                        batch.addAll(values(request, answer));
                        return null;
                    }
                    int code = ModbusConnection.exceptionCode(failed);
                    if (code == 0) {
                        throw failed instanceof RuntimeException same
                                ? same
                                : new java.util.concurrent.CompletionException(failed);
                    }
                    if (code == NO_SUCH_ADDRESS && request.points().size() > 1 && !gapsCut) {
                        gapsCut = true;
                        plan = ReadPlan.of(tags.keySet(), new ReadPlan.Limits(0, limits.registers(), limits.bits()));
                    }
                    batch.addAll(
                            bad(request.points(), "unit " + unit + ": " + ModbusConnection.words(failed), 0x80890000L));
                    return null;
                });
    }

    private List<TagChange> values(ReadPlan.Request request, byte[] answer) {
        Instant now = clock.now();
        List<TagChange> changes = new ArrayList<>();
        for (ModbusPoint point : request.points()) {
            TagValue value = new TagValue(Optional.of(value(point, request.from(), answer)), Quality.GOOD, now, now);
            latest.put(point, value);
            tags.get(point).forEach(tag -> changes.add(new TagChange(tag.address(), value)));
        }
        return changes;
    }

    /** The last values, which can no longer be trusted. */
    private List<TagChange> bad(Iterable<ModbusPoint> points, String words, long code) {
        Instant now = clock.now();
        Quality quality = Quality.bad(code, words);
        List<TagChange> changes = new ArrayList<>();
        points.forEach(point -> {
            TagValue value = Optional.ofNullable(latest.get(point))
                    .map(last -> last.withQuality(quality, now))
                    .orElseGet(() -> new TagValue(Optional.empty(), quality, now, now));
            tags.get(point).forEach(tag -> changes.add(new TagChange(tag.address(), value)));
        });
        return changes;
    }

    /** The value of a point inside an answer that begins at an address. */
    static Object value(ModbusPoint point, int from, byte[] answer) {
        int at = point.address() - from;
        return point.table().bits()
                ? (answer[at / 8] >> at % 8 & 1) == 1
                : ModbusValues.decode(point, Arrays.copyOfRange(answer, at * 2, (at + point.size()) * 2));
    }
}
