package dachshund.drill;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/** Stands between the application and a server on loopback: passes bytes on, or fails as networks and servers do. */
final class Proxy implements AutoCloseable {

    /** What it does with bytes. */
    enum Mode {
        PASSES,
        /** No byte gets through, and nobody is told. */
        HANGS,
        /** Connections are cut, those that come too. */
        CUTS,
        /** What is asked gets through and is done, what is answered does not. */
        MUTE,
        /** Answers come a minute later. */
        SLOW
    }

    private static final long SLOW_MILLIS = 60_000;
    private static final int LOOK_MILLIS = 5;

    private final ServerSocket door;
    private final int to;
    private final Set<Socket> open = ConcurrentHashMap.newKeySet();
    private volatile Mode mode = Mode.PASSES;

    Proxy(int to) throws IOException {
        this.to = to;
        door = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        daemon(this::accept);
    }

    int port() {
        return door.getLocalPort();
    }

    /** Whoever was answered only in part is cut: no answer may be taken for that of another question. */
    void mode(Mode next) {
        boolean torn = mode == Mode.MUTE || next == Mode.CUTS;
        mode = next;
        if (torn) {
            open.forEach(Proxy::close);
        }
    }

    private static void daemon(Runnable work) {
        Thread thread = new Thread(work, "proxy");
        thread.setDaemon(true);
        thread.start();
    }

    private void accept() {
        while (!door.isClosed()) {
            try {
                Socket client = door.accept();
                if (mode == Mode.CUTS) {
                    close(client);
                    continue;
                }
                Socket server = new Socket(InetAddress.getLoopbackAddress(), to);
                open.add(client);
                open.add(server);
                daemon(() -> pass(client, server, false));
                daemon(() -> pass(server, client, true));
            } catch (IOException away) {
                // the server is not there, or the door is closed
            }
        }
    }

    private void pass(Socket from, Socket into, boolean answers) {
        byte[] bytes = new byte[16_384];
        try {
            InputStream in = from.getInputStream();
            OutputStream out = into.getOutputStream();
            for (int read = in.read(bytes); read >= 0; read = in.read(bytes)) {
                if (answers && mode == Mode.SLOW) {
                    long due = System.nanoTime() + SLOW_MILLIS * 1_000_000;
                    while (mode == Mode.SLOW && System.nanoTime() < due) {
                        Thread.sleep(LOOK_MILLIS);
                    }
                }
                while (mode == Mode.HANGS && !from.isClosed()) {
                    Thread.sleep(LOOK_MILLIS);
                }
                if (!(answers && mode == Mode.MUTE)) {
                    out.write(bytes, 0, read);
                }
            }
        } catch (IOException gone) {
            // one side has left, so has the other
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            close(from);
            close(into);
            open.remove(from);
            open.remove(into);
        }
    }

    private static void close(Socket socket) {
        try {
            socket.close();
        } catch (IOException e) {
            // it is of no use any more
        }
    }

    @Override
    public void close() throws IOException {
        door.close();
        open.forEach(Proxy::close);
    }
}
