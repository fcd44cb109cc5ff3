package dachshund.bench;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;

/**
 * One side of a benchmark in a process of its own, so that its CPU time and memory are its own. It prints a JSON line
 * for each thing it has to say.
 */
final class Side implements AutoCloseable {

    private static final ObjectMapper JSON = new ObjectMapper();

    private final Process process;
    private final BufferedReader words;

    private Side(Process process) {
        this.process = process;
        this.words = new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8));
    }

    /** Starts this program again with other arguments. */
    static Side start(String memory, Object... arguments) throws IOException {
        List<String> command = new ArrayList<>(
                List.of(Path.of(System.getProperty("java.home"), "bin", "java").toString(), memory));
        String path = System.getProperty("java.class.path");
        if (path.endsWith(".jar") && !path.contains(":")) {
            command.addAll(List.of("-jar", path));
        } else {
            command.addAll(List.of("-cp", path, Bench.class.getName()));
        }
        for (Object argument : arguments) {
            command.add(String.valueOf(argument));
        }
        return new Side(new ProcessBuilder(command)
                .redirectError(ProcessBuilder.Redirect.INHERIT)
                .start());
    }

    /** The next thing that it says. */
    JsonNode next() throws IOException {
        for (String line = words.readLine(); line != null; line = words.readLine()) {
            if (line.startsWith("{")) {
                return JSON.readTree(line);
            }
        }
        throw new IOException("A side of the benchmark ended before it was done.");
    }

    /** Says something, as a side. */
    static void say(PrintStream out, Object record) throws IOException {
        out.println(JSON.writeValueAsString(record));
        out.flush();
    }

    @Override
    public void close() {
        process.destroy();
        try {
            if (!process.waitFor(10, TimeUnit.SECONDS)) {
                process.destroyForcibly();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
