package dachshund.links;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicLong;

/**
 * Stands between a client and a server and ends their talk after so many bytes of the server: silently, as when a machine
 * loses its power, or by closing, as when a process is killed. Lets everything through once it is mended.
 */
public final class Tear implements AutoCloseable {

    private final ServerSocket door;
    private final int server;
    private final long after;
    private final boolean silently;
    private final AtomicLong passed = new AtomicLong();
    private final List<Socket> sockets = new CopyOnWriteArrayList<>();
    private volatile boolean mended;

    public Tear(int server, long after, boolean silently) throws IOException {
        this.door = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        this.server = server;
        this.after = after;
        this.silently = silently;
        thread(this::take);
    }

    public int port() {
        return door.getLocalPort();
    }

    /** Whether the talk was torn. */
    public boolean torn() {
        return passed.get() > after;
    }

    /** Whoever comes from now on is let through; what hangs goes on hanging. */
    public void mend() {
        mended = true;
    }

    private static void thread(Runnable work) {
        Thread thread = new Thread(work, "tear");
        thread.setDaemon(true);
        thread.start();
    }

    private void take() {
        try {
            while (true) {
                Socket client = door.accept();
                Socket there = new Socket(InetAddress.getLoopbackAddress(), server);
                sockets.addAll(List.of(client, there));
                boolean whole = mended;
                thread(() -> pass(client, there, true));
                thread(() -> pass(there, client, whole));
            }
        } catch (IOException closed) {
            // nobody comes any more
        }
    }

    private void pass(Socket from, Socket to, boolean whole) {
        byte[] bytes = new byte[1 << 14];
        try {
            InputStream in = from.getInputStream();
            OutputStream out = to.getOutputStream();
            for (int n = in.read(bytes); n >= 0; n = in.read(bytes)) {
                long before = whole ? 0 : passed.getAndAdd(n);
                if (whole || before + n <= after) {
                    out.write(bytes, 0, n);
                    continue;
                }
                out.write(bytes, 0, (int) Math.max(0, after - before));
                if (!silently) {
                    break;
                }
            }
            from.close();
            to.close();
        } catch (IOException ended) {
            // as when one of them is killed
        }
    }

    @Override
    public void close() throws IOException {
        door.close();
        for (Socket socket : sockets) {
            socket.close();
        }
    }
}
