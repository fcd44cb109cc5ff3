package dachshund.web.notice;

import org.springframework.boot.context.properties.ConfigurationProperties;

/**
 * Where the demo's mail server is, a stand-in.
 *
 * @param smtpPort where it takes mail; 0 for none
 * @param imapPort where its mailbox is read
 */
@ConfigurationProperties("dachshund.demo-mail")
public record DemoMail(int smtpPort, int imapPort) {

    static final String ADDRESS = "shift@quillmoor.example";
    static final String USER = "shift";
    static final String PASSWORD = "shift-demo";

    boolean there() {
        return smtpPort > 0;
    }
}
