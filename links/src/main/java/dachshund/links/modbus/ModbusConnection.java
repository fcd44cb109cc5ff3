package dachshund.links.modbus;

import com.digitalpetri.modbus.client.ModbusClient;
import com.digitalpetri.modbus.client.ModbusRtuClient;
import com.digitalpetri.modbus.client.ModbusTcpClient;
import com.digitalpetri.modbus.exceptions.ModbusExecutionException;
import com.digitalpetri.modbus.exceptions.ModbusResponseException;
import com.digitalpetri.modbus.exceptions.ModbusTimeoutException;
import com.digitalpetri.modbus.pdu.ModbusRequestPdu;
import com.digitalpetri.modbus.pdu.ModbusResponsePdu;
import com.digitalpetri.modbus.pdu.ReadCoilsRequest;
import com.digitalpetri.modbus.pdu.ReadCoilsResponse;
import com.digitalpetri.modbus.pdu.ReadDiscreteInputsRequest;
import com.digitalpetri.modbus.pdu.ReadDiscreteInputsResponse;
import com.digitalpetri.modbus.pdu.ReadHoldingRegistersRequest;
import com.digitalpetri.modbus.pdu.ReadHoldingRegistersResponse;
import com.digitalpetri.modbus.pdu.ReadInputRegistersRequest;
import com.digitalpetri.modbus.pdu.ReadInputRegistersResponse;
import com.digitalpetri.modbus.tcp.client.NettyClientTransportConfig;
import com.digitalpetri.modbus.tcp.client.NettyRtuClientTransport;
import com.digitalpetri.modbus.tcp.client.NettyTcpClientTransport;
import dachshund.core.modbus.ModbusTable;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.links.network.Reach;
import io.netty.channel.ChannelHandlerContext;
import io.netty.channel.ChannelInboundHandlerAdapter;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.LongAdder;

/**
 * A TCP connection to a device or gateway. Requests to different units run side by side over Modbus TCP; RTU frames
 * carry no number that would tell answers apart, so there one request waits for the other.
 */
final class ModbusConnection implements AutoCloseable {

    /** Exception codes in words (V1.1b3, 7). */
    private static final Map<Integer, String> EXCEPTIONS = Map.of(
            1,
            "it does not know this function (exception 1)",
            2,
            "it has no such address (exception 2)",
            3,
            "it does not accept this value or length (exception 3)",
            4,
            "it failed (exception 4)",
            5,
            "it needs more time (exception 5)",
            6,
            "it is busy (exception 6)",
            8,
            "its memory is damaged (exception 8)",
            10,
            "the gateway has no path to it (exception 10)",
            11,
            "it does not answer the gateway (exception 11)");

    /** The answer was not what was asked for. */
    static final class Malformed extends RuntimeException {
        Malformed(String sentence) {
            super(sentence);
        }
    }

    /** What the connection counts; outlives a single connection. */
    static final class Counts {
        final LongAdder requests = new LongAdder();
        final LongAdder refused = new LongAdder();
        final LongAdder unanswered = new LongAdder();
        final LongAdder malformed = new LongAdder();
        final LongAdder broken = new LongAdder();
        volatile Duration roundTrip = Duration.ZERO;
    }

    private static final int SILENT_MOST = 2;
    private static final Duration LEAST_STUCK = Duration.ofSeconds(2);

    private final String host;
    private final int port;
    private final Counts counts;
    private final boolean oneAtATime;
    private final ModbusClient client;
    private final AtomicInteger silentInARow = new AtomicInteger();
    private final Duration stuckAfter;
    private volatile long lastAnswer = System.nanoTime();
    private CompletableFuture<?> tail = CompletableFuture.completedFuture(null);

    private ModbusConnection(LinkKind.Opening opening, Counts counts) {
        this.host = opening.setting("host");
        this.port = opening.whole("port", 502);
        this.counts = counts;
        this.oneAtATime = opening.setting("framing").equals("rtu");
        Duration wait = Duration.ofMillis(opening.whole("timeout", 1000));
        Duration longest = wait.multipliedBy(3);
        for (Duration other : List.of(LEAST_STUCK, opening.rate().plus(wait))) {
            longest = longest.compareTo(other) < 0 ? other : longest;
        }
        this.stuckAfter = longest;
        this.client = oneAtATime
                ? ModbusRtuClient.create(
                        NettyRtuClientTransport.create(this::configure), config -> config.setRequestTimeout(wait))
                : ModbusTcpClient.create(
                        NettyTcpClientTransport.create(this::configure), config -> config.setRequestTimeout(wait));
    }

    private void configure(NettyClientTransportConfig.Builder config) {
        config.setHostname(host)
                .setPort(port)
                .setConnectTimeout(Duration.ofSeconds(5))
                .setConnectPersistent(false)
                .setPipelineCustomizer(pipeline -> pipeline.addLast("malformed", new ChannelInboundHandlerAdapter() {
                    @Override
                    public void exceptionCaught(ChannelHandlerContext context, Throwable cause) {
                        counts.malformed.increment();
                        context.close(); // after bytes that are no frame, nothing says where the next one begins
                    }
                }));
    }

    /** @throws LinkProblem with a sentence */
    static ModbusConnection open(LinkKind.Opening opening, Counts counts, Duration limit) throws LinkProblem {
        opening.check(opening.setting("host"), opening.whole("port", 502));
        ModbusConnection connection = new ModbusConnection(opening, counts);
        try { // without trying the port first: many gateways bear one connection only
            connection.client.connectAsync().toCompletableFuture().get(limit.toMillis(), TimeUnit.MILLISECONDS);
            return connection;
        } catch (ExecutionException | TimeoutException e) {
            connection.close();
            throw Reach.problem(e, connection.host, connection.port, "Modbus device", limit);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            connection.close();
            throw new LinkProblem("Connecting to " + connection + " was broken off.", e);
        }
    }

    boolean connected() {
        return client.isConnected();
    }

    /**
     * Whether several requests in a row got no answer from any device. The stream may have lost its frames: bytes that are
     * none can look like the head of a long one, and then swallow every answer that follows. Only a new connection helps.
     */
    boolean stuck() {
        // One device that answers too late is its own affair: the others would have been heard in this time.
        return silentInARow.get() >= SILENT_MOST && System.nanoTime() - lastAnswer > stuckAfter.toNanos();
    }

    /** Registers as bytes, or bits packed eight to a byte, lowest first. Fails with {@link Malformed} where the length is another. */
    CompletableFuture<byte[]> read(int unit, ModbusTable table, int from, int count) {
        ModbusRequestPdu request =
                switch (table) {
                    case COIL -> new ReadCoilsRequest(from, count);
                    case DISCRETE -> new ReadDiscreteInputsRequest(from, count);
                    case HOLDING -> new ReadHoldingRegistersRequest(from, count);
                    case INPUT -> new ReadInputRegistersRequest(from, count);
                };
        int expected = table.bits() ? (count + 7) / 8 : count * 2;
        return send(unit, request).thenApply(answer -> {
            byte[] bytes = bytes(answer);
            if (bytes.length != expected) {
                counts.malformed.increment();
                throw new Malformed("unit " + unit + " answered with " + bytes.length + " bytes where " + expected
                        + " were asked for");
            }
            return bytes;
        });
    }

    private static byte[] bytes(ModbusResponsePdu answer) {
        if (answer instanceof ReadHoldingRegistersResponse holding) {
            return holding.registers();
        }
        if (answer instanceof ReadInputRegistersResponse input) {
            return input.registers();
        }
        if (answer instanceof ReadCoilsResponse coils) {
            return coils.coils();
        }
        return answer instanceof ReadDiscreteInputsResponse inputs ? inputs.inputs() : new byte[0];
    }

    /** Sends a request and counts what became of it. */
    synchronized CompletableFuture<ModbusResponsePdu> send(int unit, ModbusRequestPdu request) {
        CompletableFuture<ModbusResponsePdu> answer = oneAtATime
                ? tail.handle((done, failed) -> null).thenCompose(turn -> sendNow(unit, request))
                : sendNow(unit, request);
        tail = answer;
        return answer;
    }

    private CompletableFuture<ModbusResponsePdu> sendNow(int unit, ModbusRequestPdu request) {
        counts.requests.increment();
        long from = System.nanoTime();
        CompletableFuture<ModbusResponsePdu> answer;
        try {
            answer = client.sendAsync(unit, request).toCompletableFuture();
        } catch (RuntimeException notSent) {
            answer = CompletableFuture.failedFuture(notSent);
        }
        return answer.whenComplete((pdu, failed) -> {
            boolean answered = failed == null || cause(failed, ModbusResponseException.class);
            if (answered) {
                silentInARow.set(0);
                lastAnswer = System.nanoTime();
                counts.roundTrip = Duration.ofNanos(System.nanoTime() - from);
            } else {
                silentInARow.incrementAndGet();
            }
            if (failed != null && !answered) {
                (cause(failed, ModbusTimeoutException.class)
                                ? counts.unanswered
                                : client.isConnected() ? counts.malformed : counts.broken)
                        .increment();
            } else if (failed != null) {
                counts.refused.increment();
            }
        });
    }

    /** Whether a failure has a cause of a type. */
    static boolean cause(Throwable problem, Class<? extends Throwable> type) {
        for (Throwable each = problem; each != null; each = each.getCause()) {
            if (type.isInstance(each)) {
                return true;
            }
        }
        return false;
    }

    /** The exception code of a refusal, 0 where the failure is none. */
    static int exceptionCode(Throwable problem) {
        for (Throwable each = problem; each != null; each = each.getCause()) {
            if (each instanceof ModbusResponseException refused) {
                return refused.getExceptionCode();
            }
        }
        return 0;
    }

    /** What went wrong, without class names. */
    static String words(Throwable problem) {
        int code = exceptionCode(problem);
        if (code != 0) {
            return EXCEPTIONS.getOrDefault(code, "exception " + code);
        }
        if (cause(problem, ModbusTimeoutException.class) || cause(problem, TimeoutException.class)) {
            return "no answer in time";
        }
        Throwable root = problem;
        while (root.getCause() != null) {
            root = root.getCause();
        }
        boolean plain = root instanceof Malformed
                || root instanceof java.io.IOException
                || root instanceof ModbusExecutionException;
        return plain && root.getMessage() != null
                ? root.getMessage().replaceAll("\\.$", "")
                : "the answer could not be read";
    }

    @Override
    public void close() {
        client.disconnectAsync();
    }

    @Override
    public String toString() {
        return host + ":" + port;
    }
}
