package dachshund.standins;

import dachshund.standins.mail.PrivateMail;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.stream.Collectors;

/**
 * Starts the simulated plant: {@code --opcua-port=4840 --modbus-port=1502 --broker-port=1884 --seed=7
 * --smtp-port=2525 --imap-port=2143 --ready-file=FILE}. Ends with the process.
 */
public final class StandIns {

    private StandIns() {}

    public static void main(String[] args) throws InterruptedException, IOException {
        Map<String, String> options = Arrays.stream(args)
                .filter(arg -> arg.startsWith("--") && arg.contains("="))
                .map(arg -> arg.substring(2).split("=", 2))
                .collect(Collectors.toMap(parts -> parts[0], parts -> parts[1]));
        SimulatedPlant server = SimulatedPlant.start(
                port(options, "opcua-port", "4840"),
                port(options, "modbus-port", "0"),
                port(options, "broker-port", "0"),
                Long.parseLong(options.getOrDefault("seed", "7")));
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
