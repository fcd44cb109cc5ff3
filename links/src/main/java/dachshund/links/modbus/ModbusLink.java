package dachshund.links.modbus;

import com.digitalpetri.modbus.pdu.ModbusRequestPdu;
import com.digitalpetri.modbus.pdu.WriteMultipleRegistersRequest;
import com.digitalpetri.modbus.pdu.WriteSingleCoilRequest;
import com.digitalpetri.modbus.pdu.WriteSingleRegisterRequest;
import dachshund.core.modbus.ModbusPoint;
import dachshund.core.modbus.ModbusTable;
import dachshund.core.modbus.ModbusType;
import dachshund.core.modbus.ModbusValues;
import dachshund.core.modbus.ReadPlan;
import dachshund.core.source.LinkHealth;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.links.network.Reconnecting;
import java.nio.ByteBuffer;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/** A Modbus device or gateway: one connection, each unit read by itself at the source's rate. */
final class ModbusLink implements PlantLink {

    private static final Duration CONNECT_LIMIT = Duration.ofSeconds(5);

    private final LinkKind.Opening opening;
    private final String place;
    private final ReadPlan.Limits limits;
    private final boolean alwaysMultiple;
    private final ModbusConnection.Counts counts = new ModbusConnection.Counts();
    private final Reconnecting<ModbusConnection> connecting;
    private final Object lock = new Object();
    private List<TagInfo> wanted = List.of();
    private Map<Integer, ModbusUnit> units = Map.of();
    private Listener listener;
    /** The one that units are polled over. */
    private ModbusConnection polled;

    private String shown = "";

    ModbusLink(LinkKind.Opening opening) {
        this.opening = opening;
        this.place = opening.setting("host") + ":" + opening.whole("port", 502);
        this.limits = new ReadPlan.Limits(
                opening.whole("gap", 8), opening.whole("registers", 125), opening.whole("bits", 2000));
        this.alwaysMultiple = opening.setting("single").equals("multiple");
        this.connecting = new Reconnecting<>(place, new Making());
    }

    @Override
    public LinkTest test(Duration limit) {
        long from = System.nanoTime();
        try (ModbusConnection own = ModbusConnection.open(opening, counts, limit)) {
            long millis = (System.nanoTime() - from) / 1_000_000;
            List<Integer> ids;
            synchronized (lock) {
                ids = wanted.isEmpty()
                        ? List.of(1)
                        : units.keySet().stream().limit(8).toList();
            }
            List<String> answers = new ArrayList<>();
            boolean any = false;
            for (int id : ids) {
                String answer = probe(own, id);
                any |= answer.isEmpty();
                answers.add("unit " + id + (answer.isEmpty() ? " answers" : ": " + answer));
            }
            String sentence =
                    "Something listens at " + place + " (" + millis + " ms); " + String.join(", ", answers) + ".";
            return any
                    ? LinkTest.good(sentence, "Modbus " + opening.setting("host"))
                    : LinkTest.failed(
                            sentence + " Compare the unit id, and whether the device speaks "
                                    + (opening.setting("framing").equals("rtu") ? "RTU frames over TCP" : "Modbus TCP")
                                    + ".",
                            "host");
        } catch (LinkProblem problem) {
            return LinkTest.failed(problem.getMessage(), "host");
        }
    }

    /** Asks for the first holding register; any answer, a refusal included, proves the device. */
    private static String probe(ModbusConnection connection, int unit) {
        try {
            connection.read(unit, ModbusTable.HOLDING, 0, 1).get(5, TimeUnit.SECONDS);
            return "";
        } catch (ExecutionException problem) {
            int code = ModbusConnection.exceptionCode(problem);
            return code != 0 && code != 10 && code != 11 ? "" : ModbusConnection.words(problem);
        } catch (TimeoutException late) {
            return "no answer in time";
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            return "broken off";
        }
    }

    @Override
    public Page browse(String folder, String path, String from) throws LinkProblem {
        throw new LinkProblem(
                "A Modbus device does not say what it offers. Describe its registers, or bring them as CSV.");
    }

    @Override
    public void start(Listener heard, ScheduledExecutorService pool) {
        synchronized (lock) {
            listener = heard;
        }
        connecting.start(heard, pool);
    }

    private final class Making implements Reconnecting.Making<ModbusConnection> {

        @Override
        public ModbusConnection open(Consumer<String> lost) throws LinkProblem {
            return ModbusConnection.open(opening, counts, CONNECT_LIMIT);
        }

        @Override
        public String begin(ModbusConnection fresh) {
            synchronized (lock) {
                shown = "";
                polled = fresh;
                units.values().forEach(unit -> poll(fresh, unit));
                return units.isEmpty() ? "Connected to " + place + ". No register is described yet." : "";
            }
        }

        @Override
        public void close(ModbusConnection connection) {
            connection.close();
        }
    }

    private void poll(ModbusConnection over, ModbusUnit unit) {
        synchronized (lock) {
            if (!connecting.is(over) || units.get(unit.unit()) != unit) {
                return;
            }
        }
        unit.poll(over, listener::onBatch)
                .thenAccept(next -> {
                    if (unit.trouble().isEmpty()) {
                        connecting.worked();
                    }
                    if (!over.connected() || over.stuck()) {
                        connecting.lost(
                                over,
                                over.connected()
                                        ? "Connected to " + place + ", but nothing answers (unit " + unit.unit() + ": "
                                                + unit.trouble()
                                                + "). Compare unit ids and the wiring behind the gateway."
                                        : "The connection to " + place + " broke.");
                        return;
                    }
                    tell();
                    connecting.schedule(() -> poll(over, unit), next);
                })
                .exceptionally(failed -> {
                    // Whatever went wrong in between, this unit is asked again and the others do not notice.
                    listener.onProblem(
                            "Unit " + unit.unit() + ": reading failed: " + ModbusConnection.words(failed) + ".");
                    connecting.schedule(() -> poll(over, unit), Duration.ofSeconds(1));
                    return null;
                });
    }

    /** Says how the devices stand, when that has changed. */
    private void tell() {
        String sentence;
        boolean none;
        boolean anySilent;
        synchronized (lock) {
            Map<Boolean, List<ModbusUnit>> byAnswer = units.values().stream()
                    .collect(Collectors.partitioningBy(unit -> unit.trouble().isEmpty()));
            none = byAnswer.get(true).isEmpty() && !units.isEmpty();
            anySilent = !byAnswer.get(false).isEmpty();
            String silent = byAnswer.get(false).stream()
                    .map(unit -> "unit " + unit.unit() + ": " + unit.trouble())
                    .collect(Collectors.joining("; "));
            sentence = "Connected to " + place + ". "
                    + (silent.isEmpty()
                            ? units.size() == 1 ? "The device answers." : "All " + units.size() + " devices answer."
                            : none
                                    ? "No device answers: " + silent
                                            + ". Compare unit ids and the wiring behind the gateway."
                                    : byAnswer.get(true).size() + " of " + units.size() + " devices answer; " + silent
                                            + ".");
            if (sentence.equals(shown)) {
                return;
            }
            shown = sentence;
        }
        if (!none && anySilent) {
            listener.onProblem(sentence); // AWAY is noted as a problem by itself
        }
        listener.onState(none ? LinkState.AWAY : LinkState.CONNECTED, sentence);
    }

    @Override
    public void want(Collection<TagInfo> tags) {
        synchronized (lock) {
            Map<Integer, List<TagInfo>> before = byUnit(wanted);
            wanted = List.copyOf(tags);
            Map<Integer, ModbusUnit> next = new TreeMap<>();
            byUnit(wanted)
                    .forEach((id, theirs) -> next.put(
                            id,
                            theirs.equals(before.get(id)) && units.containsKey(id)
                                    ? units.get(id)
                                    : new ModbusUnit(id, theirs, limits, opening.rate(), opening.clock())));
            List<ModbusUnit> fresh = next.values().stream()
                    .filter(unit -> !units.containsValue(unit))
                    .toList();
            units = next;
            ModbusConnection over = polled;
            if (over != null) {
                fresh.forEach(unit -> connecting.schedule(() -> poll(over, unit), Duration.ZERO));
            }
        }
    }

    private static Map<Integer, List<TagInfo>> byUnit(List<TagInfo> tags) {
        return tags.stream().collect(Collectors.groupingBy(tag -> ModbusPoint.read(tag.how())
                .unit()));
    }

    /** Something done over the connection at work, or over one of its own. */
    private interface Asking<T> {
        T ask(ModbusConnection over) throws LinkProblem, ExecutionException, TimeoutException, InterruptedException;
    }

    private <T> T ask(String what, Duration limit, Asking<T> asking) throws LinkProblem {
        Optional<ModbusConnection> present = connecting.present();
        try {
            if (present.isPresent()) {
                return asking.ask(present.get());
            }
            try (ModbusConnection own = ModbusConnection.open(opening, counts, limit)) {
                return asking.ask(own);
            }
        } catch (ExecutionException | TimeoutException problem) {
            throw new LinkProblem("The device " + what + ": " + ModbusConnection.words(problem) + ".", problem);
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new LinkProblem("The request was broken off.", interrupted);
        }
    }

    @Override
    public Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) throws LinkProblem {
        Map<ModbusPoint, List<TagInfo>> byPoint =
                tags.stream().collect(Collectors.groupingBy(tag -> ModbusPoint.read(tag.how())));
        return ask("did not answer", limit, over -> {
            Map<String, TagValue> values = new HashMap<>();
            for (ReadPlan.Request request :
                    ReadPlan.of(byPoint.keySet(), new ReadPlan.Limits(0, limits.registers(), limits.bits()))) {
                byte[] answer = over.read(request.unit(), request.table(), request.from(), request.count())
                        .get(limit.toMillis(), TimeUnit.MILLISECONDS);
                Instant now = opening.clock().now();
                request.points().forEach(point -> byPoint.get(point)
                        .forEach(tag -> values.put(
                                tag.address(),
                                new TagValue(
                                        Optional.of(ModbusUnit.value(point, request.from(), answer)),
                                        Quality.GOOD,
                                        now,
                                        now))));
            }
            return values;
        });
    }

    /** Writes with function 5, 6 or 16; one bit of a register by reading the register first. */
    @Override
    public void write(TagInfo tag, Object value, Duration limit) throws LinkProblem {
        ModbusPoint point = ModbusPoint.read(tag.how());
        if (!point.table().writable()) {
            throw new LinkProblem("A " + point.table().words() + " cannot be written.");
        }
        ask("did not take the value", limit, over -> {
            Optional<byte[]> present =
                    point.type() == ModbusType.BIT && !point.table().bits()
                            ? Optional.of(over.read(point.unit(), point.table(), point.address(), 1)
                                    .get(limit.toMillis(), TimeUnit.MILLISECONDS))
                            : Optional.empty();
            return over.send(point.unit(), request(point, value, present)).get(limit.toMillis(), TimeUnit.MILLISECONDS);
        });
    }

    private ModbusRequestPdu request(ModbusPoint point, Object value, Optional<byte[]> present) throws LinkProblem {
        try {
            if (point.table() == ModbusTable.COIL) {
                return new WriteSingleCoilRequest(point.address(), (Boolean) value);
            }
            byte[] registers = ModbusValues.encode(point, value, present);
            return registers.length == 2 && !alwaysMultiple
                    ? new WriteSingleRegisterRequest(
                            point.address(), ByteBuffer.wrap(registers).getShort() & 0xFFFF)
                    : new WriteMultipleRegistersRequest(point.address(), registers.length / 2, registers);
        } catch (ClassCastException other) {
            throw new LinkProblem("A coil is yes or no. Nothing was written.", other);
        } catch (IllegalArgumentException doesNotFit) {
            throw new LinkProblem(doesNotFit.getMessage() + " Nothing was written.", doesNotFit);
        }
    }

    @Override
    public LinkHealth health() {
        Map<String, Long> shownCounts = new LinkedHashMap<>();
        List<String> remarks = new ArrayList<>();
        synchronized (lock) {
            shownCounts.put("requests a round", (long)
                    units.values().stream().mapToInt(ModbusUnit::requests).sum());
            units.values().stream()
                    .filter(ModbusUnit::gapsCut)
                    .forEach(unit -> remarks.add("Unit " + unit.unit()
                            + " refused registers that nobody wants, so its requests are cut at the gaps."));
        }
        shownCounts.put("requests", counts.requests.sum());
        shownCounts.put("refused by a device", counts.refused.sum());
        shownCounts.put("not answered in time", counts.unanswered.sum());
        shownCounts.put("answers that could not be read", counts.malformed.sum());
        shownCounts.put("cut off with the connection", counts.broken.sum());
        return new LinkHealth(
                counts.roundTrip.isZero() ? Optional.empty() : Optional.of(counts.roundTrip), shownCounts, remarks);
    }

    @Override
    public void close() {
        connecting.close();
    }
}
