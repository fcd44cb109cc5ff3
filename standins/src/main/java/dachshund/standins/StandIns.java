package dachshund.standins;

import dachshund.standins.business.Business;
import dachshund.standins.mail.PrivateMail;
import dachshund.standins.plant.Lots.Lot;
import dachshund.standins.plant.PlantPast;
import dachshund.standins.plant.PlantPast.Past;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/**
 * Starts the simulated plant: {@code --opcua-port=4840 --modbus-port=1502 --broker-port=1884 --seed=7
 * --smtp-port=2525 --imap-port=2143 --database=HOST:PORT --history=FILE --ready-file=FILE}. With a history the plant has run for
 * a week when it begins, and what it did stands in the file. With a database, laboratory and orders keep theirs there. Ends with
 * the process.
 */
public final class StandIns {

    private static final Duration PAST = Duration.ofDays(7).plusHours(1);

    /** The account of the demo's server that writes for laboratory and orders. */
    private static final String OFFICE = "quillmoor_office";

    private static final String OFFICE_PASSWORD = "quillmoor-office-demo";

    private StandIns() {}

    public static void main(String[] args) throws InterruptedException, IOException {
        Map<String, String> options = Arrays.stream(args)
                .filter(arg -> arg.startsWith("--") && arg.contains("="))
                .map(arg -> arg.substring(2).split("=", 2))
                .collect(Collectors.toMap(parts -> parts[0], parts -> parts[1]));
        long seed = Long.parseLong(options.getOrDefault("seed", "7"));
        int opcUa = port(options, "opcua-port", "4840");
        int modbus = port(options, "modbus-port", "0");
        int broker = port(options, "broker-port", "0");
        Consumer<List<Lot>> ended = none -> {};
        if (options.containsKey("database")) {
            Business business = new Business(options.get("database"), OFFICE, OFFICE_PASSWORD).start();
            Runtime.getRuntime().addShutdownHook(new Thread(business::close, "stop-business"));
            ended = business::take;
        }
        SimulatedPlant server;
        if (options.containsKey("history")) {
            Past past = PlantPast.write(seed, Instant.now(), PAST, Path.of(options.get("history")));
            ended.accept(past.ended());
            server = SimulatedPlant.start(past.plant(), past.lots(), ended, opcUa, modbus, broker);
        } else {
            server = SimulatedPlant.start(opcUa, modbus, broker, seed, ended);
        }
        Runtime.getRuntime().addShutdownHook(new Thread(server::close, "stop"));
        int mail = port(options, "smtp-port", "0");
        if (mail > 0) {
            PrivateMail standIn = new PrivateMail(mail, port(options, "imap-port", "0"));
            Runtime.getRuntime().addShutdownHook(new Thread(standIn::close, "stop-mail"));
        }
        if (options.containsKey("ready-file")) {
            Files.writeString(Path.of(options.get("ready-file")), server.address());
        }
        new CountDownLatch(1).await();
    }

    private static int port(Map<String, String> options, String name, String otherwise) {
        return Integer.parseInt(options.getOrDefault(name, otherwise));
    }
}
