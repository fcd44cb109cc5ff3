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

    private final GreenMail server;

    /** @param imapPort 0 for none */
    public PrivateMail(int smtpPort, int imapPort) {
        ServerSetup smtp = new ServerSetup(smtpPort, "127.0.0.1", ServerSetup.PROTOCOL_SMTP);
        server = new GreenMail(
                imapPort == 0
                        ? new ServerSetup[] {smtp}
                        : new ServerSetup[] {smtp, new ServerSetup(imapPort, "127.0.0.1", ServerSetup.PROTOCOL_IMAP)});
        server.setUser(ADDRESS, USER, PASSWORD);
        server.start();
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
