package dachshund.office.heavy;

import dachshund.engine.thread.Threads;
import dachshund.links.heavy.Frames;
import dachshund.links.heavy.Frames.Frame;
import dachshund.links.heavy.HeavyWork;
import dachshund.office.heavy.Heavy.Limits;
import dachshund.office.heavy.Heavy.Unable;
import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.File;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.jar.JarFile;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The second process as it is seen from here: frames to it and from it, and a watch over what it takes. */
final class SecondProcess {

    private static final Logger LOG = LoggerFactory.getLogger(SecondProcess.class);

    private static final String NICE = "10";
    private static final String HEAP = "-Xmx128m";
    private static final long WATCH_MILLIS = 250;
    /** Of Linux on all processors that Debian knows today; common practice, no source. */
    private static final long PAGE_BYTES = 4096;
    /** One that nobody needs for so long ends. */
    private static final long IDLE_NANOS = TimeUnit.MINUTES.toNanos(2);

    private static final int OUTPUT = 1 << 18;

    private final Process process;
    private final DataOutputStream to;
    private final DataInputStream from;
    private final Limits limits;
    private volatile long heard = System.nanoTime();
    private volatile boolean working;
    /** When what it works at is broken off; 0 for never. */
    private volatile long until;

    private volatile String why = "";

    SecondProcess(Path folder, Limits limits) throws Unable {
        this.limits = limits;
        try {
            process = new ProcessBuilder(command())
                    .directory(folder.toFile())
                    .redirectError(folder.resolve("last-words.log").toFile())
                    .start();
        } catch (IOException cannot) {
            throw new Unable("The second process could not be started: " + cannot.getMessage(), cannot);
        }
        to = new DataOutputStream(new BufferedOutputStream(process.getOutputStream(), OUTPUT));
        from = new DataInputStream(new BufferedInputStream(process.getInputStream()));
        Thread watch = Threads.once("heavy-watch", this::watch);
        LOG.info("The second process {} is there, watched by {}.", process.pid(), watch.getName());
    }

    private static List<String> command() {
        List<String> command = new ArrayList<>();
        if (Files.isExecutable(Path.of("/usr/bin/nice"))) {
            command.addAll(List.of("/usr/bin/nice", "-n", NICE));
        }
        String classes = System.getProperty("java.class.path");
        command.addAll(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                HEAP,
                "-XX:+UseSerialGC",
                "-cp",
                absolute(classes)));
        if (isWhole(classes)) {
            command.add("-Dloader.main=" + HeavyWork.class.getName());
            command.add("org.springframework.boot.loader.launch.PropertiesLauncher");
        } else {
            command.add(HeavyWork.class.getName());
        }
        return command;
    }

    private static String absolute(String classes) {
        List<String> paths = new ArrayList<>();
        for (String each : classes.split(File.pathSeparator)) {
            paths.add(Path.of(each).toAbsolutePath().toString());
        }
        return String.join(File.pathSeparator, paths);
    }

    /** Whether the application is one file with all its libraries in it. */
    private static boolean isWhole(String classes) {
        if (classes.contains(File.pathSeparator) || !classes.endsWith(".jar")) {
            return false;
        }
        try (JarFile jar = new JarFile(classes)) {
            return jar.getEntry("BOOT-INF/") != null;
        } catch (IOException none) {
            return false;
        }
    }

    boolean alive() {
        return process.isAlive() && why.isEmpty();
    }

    long pid() {
        return process.pid();
    }

    void working(boolean now) {
        heard = System.nanoTime();
        working = now;
    }

    /** What it works at is broken off then. */
    void until(long nanos) {
        until = nanos;
    }

    void send(Frames.Kind kind, String text) throws Unable {
        try {
            Frames.write(to, kind, text);
            heard = System.nanoTime();
        } catch (IOException broke) {
            throw ended(broke);
        }
    }

    void send(Frames.Kind kind, byte[] bytes, int count) throws Unable {
        try {
            Frames.write(to, kind, bytes, count);
            heard = System.nanoTime();
        } catch (IOException broke) {
            throw ended(broke);
        }
    }

    Frame answer() throws Unable {
        try {
            to.flush();
            Frame frame = Frames.read(from);
            heard = System.nanoTime();
            return frame;
        } catch (IOException broke) {
            throw ended(broke);
        }
    }

    private Unable ended(IOException broke) {
        kill("");
        String reason = why.isEmpty() ? "It ended by itself" + words() + "." : why;
        return new Unable(
                "The second process, which does such work, could not go on. " + reason
                        + " Recording is not touched, and the next work begins with a new one.",
                broke);
    }

    private String words() {
        try {
            return process.waitFor(1, TimeUnit.SECONDS) ? " with status " + process.exitValue() : "";
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            return "";
        }
    }

    void kill(String because) {
        synchronized (this) {
            if (why.isEmpty()) {
                why = because;
            }
        }
        process.destroyForcibly();
    }

    private void watch() {
        try {
            while (!process.waitFor(WATCH_MILLIS, TimeUnit.MILLISECONDS)) {
                long silent = System.nanoTime() - heard;
                if (resident() > limits.memory()) {
                    kill("It took more than " + limits.memory() / 1_000_000 + " MB of memory.");
                } else if (working && until != 0 && System.nanoTime() - until > 0) {
                    kill("It took too long, and was broken off.");
                } else if (working && silent > limits.silence().toNanos()) {
                    kill("It worked for " + limits.silence().toSeconds() + " s at one step without an end.");
                } else if (!working && silent > IDLE_NANOS) {
                    kill("Nobody needed it.");
                }
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
        LOG.info("The second process {} is gone. {}", process.pid(), why);
    }

    /** Bytes in memory; 0 where the system does not say. */
    private long resident() {
        try {
            String[] sizes = Files.readString(Path.of("/proc", Long.toString(process.pid()), "statm"))
                    .split(" ");
            return Long.parseLong(sizes[1]) * PAGE_BYTES;
        } catch (IOException | RuntimeException unknown) {
            return 0;
        }
    }
}
