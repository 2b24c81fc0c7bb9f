using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.Extensions.Caching.Memory;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// A form that is sent again as it was, from the same page, is done once: a second press of a button, or a browser that asks again, gets
/// the answer of the first. Each page has a token of its own for its forms, so that the same words from another page are another form.
/// What was refused may be sent again.
/// </summary>
public sealed class DuplicatePostFilter : IAsyncPageFilter, IDisposable
{
    private static readonly TimeSpan Lasts = TimeSpan.FromMinutes(1);

    private readonly MemoryCache sent = new(new MemoryCacheOptions { SizeLimit = 5_000 });
    private readonly Lock gate = new();

    /// <inheritdoc />
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    /// <inheritdoc />
    public async Task OnPageHandlerExecutionAsync(
        PageHandlerExecutingContext context,
        PageHandlerExecutionDelegate next
    )
    {
        if (await KeyOf(context.HttpContext) is not { } key)
        {
            await next();
            return;
        }

        var mine = new TaskCompletionSource<string?>(TaskCreationOptions.RunContinuationsAsynchronously);
        Task<string?>? first;
        lock (gate)
        {
            if (!sent.TryGetValue(key, out first))
                sent.Set(
                    key,
                    mine.Task,
                    new MemoryCacheEntryOptions { Size = 1, AbsoluteExpirationRelativeToNow = Lasts }
                );
        }

        if (first is not null && await first.WaitAsync(context.HttpContext.RequestAborted) is { } led)
        {
            context.Result = new RedirectResult(led);
            return;
        }

        string? leads = null;
        try
        {
            var done = await next();
            leads = done.Exception is null && done.Result is RedirectResult { Url: var url } ? url : null;
        }
        finally
        {
            if (leads is null && first is null)
                sent.Remove(key);
            mine.SetResult(leads);
        }
    }

    /// <inheritdoc/>
    public void Dispose() => sent.Dispose();

    // Whoever sends it, where, and all of it but the bytes of files; null for what is no form of a page.
    private static async Task<string?> KeyOf(HttpContext context)
    {
        var request = context.Request;
        if (!HttpMethods.IsPost(request.Method) || !request.HasFormContentType)
            return null;
        if (await SavedForms.FormOf(request) is not { } form)
            return null;
        if (form["__RequestVerificationToken"].ToString() is not { Length: > 0 })
            return null;
        var all = new StringBuilder(context.User.FindFirst("token")?.Value)
            .Append('\n')
            .Append(request.Path)
            .Append(request.QueryString);
        foreach (var (name, values) in form)
        foreach (var value in values)
            all.Append('\n').Append(name).Append('=').Append(value?.Length ?? 0).Append(':').Append(value);
        foreach (var file in form.Files)
            all.Append('\n').Append(file.Name).Append('=').Append(file.FileName).Append(file.Length);
        return Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(all.ToString())));
    }
}
