package dachshund.standins.mail;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import jakarta.mail.internet.MimeMessage;
import java.util.List;

/** A mail server on loopback: takes mail for one mailbox by SMTP and shows it by IMAP. In memory, gone with the process. */
public final class PrivateMail implements AutoCloseable {

    public static final String ADDRESS = "shift@quillmoor.example";
    public static final String USER = "shift";
    public static final String PASSWORD = "shift-demo";

    private static final long STARTUP_MILLIS = 60_000;

    private final GreenMail server;

    /** @param imapPort 0 for none */
    public PrivateMail(int smtpPort, int imapPort) {
        ServerSetup smtp = setup(smtpPort, ServerSetup.PROTOCOL_SMTP);
        server = new GreenMail(
                imapPort == 0
                        ? new ServerSetup[] {smtp}
                        : new ServerSetup[] {smtp, setup(imapPort, ServerSetup.PROTOCOL_IMAP)});
        server.setUser(ADDRESS, USER, PASSWORD);
        server.start();
    }

    /** A server of a protocol, which may take its time to start. */
    public static ServerSetup setup(int port, String protocol) {
        ServerSetup setup = new ServerSetup(port, "127.0.0.1", protocol);
        setup.setServerStartupTimeout(STARTUP_MILLIS);
        return setup;
    }

    /** All mail that arrived, oldest first. */
    public List<MimeMessage> arrived() {
        return List.of(server.getReceivedMessages());
    }

    @Override
    public void close() {
        server.stop();
    }
}
