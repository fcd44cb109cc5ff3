package dachshund.standins;

import dachshund.standins.opcua.PelletWorksServer;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.stream.Collectors;

/** Starts the simulated plant: {@code --opcua-port=4840 --seed=7 --ready-file=FILE}. Ends with the process. */
public final class StandIns {

    private StandIns() {
    }

    public static void main(String[] args) throws InterruptedException, IOException {
        Map<String, String> options = Arrays.stream(args).filter(arg -> arg.startsWith("--") && arg.contains("="))
                .map(arg -> arg.substring(2).split("=", 2)).collect(Collectors.toMap(parts -> parts[0], parts -> parts[1]));
        int port = Integer.parseInt(options.getOrDefault("opcua-port", "4840"));
        PelletWorksServer server = PelletWorksServer.start(port, Long.parseLong(options.getOrDefault("seed", "7")));
        Runtime.getRuntime().addShutdownHook(new Thread(server::close, "stop"));
        if (options.containsKey("ready-file")) {
            Files.writeString(Path.of(options.get("ready-file")), server.address());
        }
        new CountDownLatch(1).await();
    }
}
