using System.Text.Json;
using JollyAlmanac.Web.Tests;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Support.UI;

namespace JollyAlmanac.Browser.Tests;

/// <summary>The demo in this process, and a headless Chromium that looks at it. One for all tests of a class.</summary>
public sealed class Browser : IDisposable
{
    private static readonly Lazy<string> Axe = new(() =>
    {
        using var stream = typeof(Browser).Assembly.GetManifestResourceStream("axe.min.js")
            ?? throw new InvalidOperationException("axe-core is not embedded.");
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    });

    private readonly string profile = Directory.CreateTempSubdirectory("almanac-browser-").FullName;
    private readonly ChromeDriver driver;

    private readonly bool ownsServer;

    public Browser()
        : this(new DemoServer()) => ownsServer = true;

    /// <summary>Another browser that looks at a server which is there.</summary>
    internal Browser(DemoServer server)
    {
        Server = server;
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.HostName = "127.0.0.1";
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--disable-dev-shm-usage",
            "--no-first-run",
            "--no-default-browser-check",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-default-apps",
            "--disable-extensions",
            "--disable-domain-reliability",
            "--disable-client-side-phishing-detection",
            "--metrics-recording-only",
            "--no-pings",
            "--disable-field-trial-config",
            "--disable-search-engine-choice-screen",
            "--disable-features=OptimizationHints,MediaRouter,Translate,AutofillServerCommunication",
            "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
            "--force-device-scale-factor=1",
            "--hide-scrollbars",
            "--window-size=1280,800",
            $"--user-data-dir={profile}"
        );
        options.SetLoggingPreference(LogType.Browser, LogLevel.All);
        driver = new ChromeDriver(service, options, TimeSpan.FromMinutes(2));
        Size(1280, 800);
    }

    public DemoServer Server { get; }

    public string Path => new Uri(driver.Url).PathAndQuery;

    public void Size(int width, int height) =>
        driver.ExecuteCdpCommand(
            "Emulation.setDeviceMetricsOverride",
            new Dictionary<string, object?>
            {
                ["width"] = width,
                ["height"] = height,
                ["deviceScaleFactor"] = 1,
                ["mobile"] = false,
            }
        );

    public void Dark(bool isDark) =>
        driver.ExecuteCdpCommand(
            "Emulation.setEmulatedMedia",
            new Dictionary<string, object?>
            {
                ["features"] = new[]
                {
                    new Dictionary<string, object?>
                    {
                        ["name"] = "prefers-color-scheme",
                        ["value"] = isDark ? "dark" : "light",
                    },
                },
            }
        );

    /// <summary>Pretends that the reader's machine stands in that zone.</summary>
    public void Zone(string zone) =>
        driver.ExecuteCdpCommand(
            "Emulation.setTimezoneOverride",
            new Dictionary<string, object?> { ["timezoneId"] = zone }
        );

    public void Go(string path) => driver.Navigate().GoToUrl(new Uri(Server.Root, path));

    /// <summary>Goes to a page of another website.</summary>
    public void GoTo(Uri address) => driver.Navigate().GoToUrl(address);

    /// <summary>Does something within a frame of the page.</summary>
    public void InFrame(int index, Action act)
    {
        driver.SwitchTo().Frame(index);
        act();
        driver.SwitchTo().DefaultContent();
    }

    public void SignIn(string email)
    {
        driver.Manage().Cookies.DeleteAllCookies();
        Go("/sign-in");
        Type("#Email", email);
        Type("#Password", DemoServer.Password);
        Find("#Password").SendKeys(Keys.Enter);
        Until(() => Path == "/today");
    }

    public IWebElement Find(string css) => driver.FindElement(By.CssSelector(css));

    public string Text(string css) => Find(css).Text;

    public bool Has(string css) => driver.FindElements(By.CssSelector(css)).Count > 0;

    public void Click(string css) => Click(By.CssSelector(css));

    public void ClickText(string tag, string text) => Click(By.XPath($"//{tag}[normalize-space()='{text}']"));

    // A page that renews itself may take an element away between being found and being clicked; then it is found again.
    private void Click(By what) =>
        Until(() =>
        {
            driver.FindElement(what).Click();
            return true;
        });

    public void Type(string css, string text)
    {
        var field = Find(css);
        field.Clear();
        field.SendKeys(text);
    }

    public void Choose(string css, string value) => Find($"{css} option[value='{value}']").Click();

    /// <summary>Sets a date field as a date picker does.</summary>
    public void SetDate(string css, string iso) =>
        Run(
            "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input', { bubbles: true }))",
            Find(css),
            iso
        );

    /// <summary>Presses the mouse on one, moves to the other and lets go there.</summary>
    public void DragBetween(IWebElement from, IWebElement to) =>
        new OpenQA.Selenium.Interactions.Actions(driver)
            .MoveToElement(from)
            .ClickAndHold()
            .MoveToElement(to)
            .Release()
            .Perform();

    public void Press(string keys) => driver.SwitchTo().ActiveElement().SendKeys(keys);

    public IWebElement Focused => driver.SwitchTo().ActiveElement();

    public object? Run(string script, params object[] arguments) => driver.ExecuteScript(script, arguments);

    /// <summary>Waits until it is so; fails after so many seconds.</summary>
    public void Until(Func<bool> isSo, int seconds = 10)
    {
        var wait = new WebDriverWait(driver, TimeSpan.FromSeconds(seconds))
        {
            PollingInterval = TimeSpan.FromMilliseconds(25),
        };
        wait.IgnoreExceptionTypes(typeof(StaleElementReferenceException), typeof(NoSuchElementException));
        wait.Until(_ => isSo());
    }

    /// <summary>What axe-core 4.14.1 finds against WCAG 2.2 AA on the page as it stands, one line each.</summary>
    /// <param name="only">The names of rules to look for; null for all.</param>
    public IReadOnlyList<string> AxeFindings(string[]? only = null)
    {
        if (driver.ExecuteScript("return !window.axe") is true)
            driver.ExecuteScript(Axe.Value);
        var json = (string)
            driver.ExecuteAsyncScript(
                """
                const [only, done] = arguments;
                axe.run(document, { preload: false, resultTypes: ["violations"],
                    runOnly: only ?? ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] })
                  .then(found => done(JSON.stringify(found.violations.map(one => `${one.id}: ${one.nodes.map(node => node.target + " " + (node.any[0]?.message ?? "")).slice(0, 4).join(" | ")}`))), error => done(JSON.stringify([String(error)])));
                """,
                [only]
            )!;
        return JsonSerializer.Deserialize<List<string>>(json)!;
    }

    /// <summary>What the console complains of since it was last asked; a page that is refused on purpose is no complaint.</summary>
    public IReadOnlyList<string> Complaints() =>
        [
            .. driver
                .Manage()
                .Logs.GetLog(LogType.Browser)
                .Where(entry => entry.Level >= LogLevel.Warning)
                .Select(entry => entry.Message),
        ];

    public void Dispose()
    {
        driver.Quit();
        driver.Dispose();
        if (ownsServer)
            Server.Dispose();
        Directory.Delete(profile, recursive: true);
    }
}
