using System.Globalization;
using System.Text;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Diagnostics;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Files that come in parts and are carried on after a lost line: the core and the creation extension of the tus resumable upload
/// protocol, version 1.0.0 (tus.io/protocols/resumable-upload). Every request but OPTIONS is its sender's own, signed in; those that
/// change something carry the form's token.
/// </summary>
public static class UploadEndpoints
{
    private const string Version = "1.0.0";

    /// <summary>Maps them.</summary>
    public static void MapUploads(this WebApplication app)
    {
        app.MapMethods("/uploads/{slug:slug}", ["OPTIONS"], Options);
        app.MapPost("/uploads/{slug:slug}", Create).RequireAuthorization();
        app.MapMethods("/uploads/{slug:slug}/{key:key}", ["HEAD"], Head).RequireAuthorization();
        app.MapMethods("/uploads/{slug:slug}/{key:key}", ["PATCH"], Patch).RequireAuthorization();
        app.MapDelete("/uploads/{slug:slug}/{key:key}", Delete).RequireAuthorization();
    }

    private static IResult Options(HttpContext context, UploadLimit limit)
    {
        var headers = context.Response.Headers;
        headers["Tus-Resumable"] = Version;
        headers["Tus-Version"] = Version;
        headers["Tus-Extension"] = "creation,termination";
        headers["Tus-Max-Size"] = limit.InParts.ToString(CultureInfo.InvariantCulture);
        return Results.NoContent();
    }

    private static async Task<IResult> Create(
        Slug slug,
        HttpContext context,
        SendFiles files,
        RequestContext requestContext,
        IAntiforgery forms
    )
    {
        if (await Refusal(context, forms) is { } refusal)
            return refusal;
        if (!TryNumber(context, "Upload-Length", out var size))
            return Says(400, "Upload-Length must say how many bytes the file has.");
        if (!TryName(context.Request.Headers["Upload-Metadata"].ToString(), out var name))
            return Says(400, "Upload-Metadata must carry the file's name.");
        switch (files.Begin(requestContext.Viewer, slug, name, size))
        {
            case Outcome<UploadedFile>.Done { Value: var begun }:
                context.Response.Headers.Location = $"/uploads/{slug}/{begun.Key}";
                return Results.StatusCode(StatusCodes.Status201Created);
            case Outcome<UploadedFile>.Refused refused:
                return Says(
                    size > context.RequestServices.GetRequiredService<UploadLimit>().InParts ? 413 : 422,
                    refused.Problems[0].Message
                );
            case Outcome<UploadedFile>.NotAllowed:
                return Says(403, "These materials are not yours to change.");
            default:
                return Says(404, "There is no such calendar.");
        }
    }

    private static IResult Head(UploadKey key, HttpContext context, SendFiles files, RequestContext requestContext)
    {
        if (Unversioned(context) is { } refusal)
            return refusal;
        context.Response.Headers.CacheControl = "no-store";
        if (files.Find(requestContext.Viewer, key) is not var (file, received))
            return Results.NotFound();
        context.Response.Headers["Upload-Offset"] = received.ToString(CultureInfo.InvariantCulture);
        context.Response.Headers["Upload-Length"] = file.Size.ToString(CultureInfo.InvariantCulture);
        return Results.Ok();
    }

    private static async Task<IResult> Patch(
        UploadKey key,
        HttpContext context,
        SendFiles files,
        RequestContext requestContext,
        IAntiforgery forms
    )
    {
        if (await Refusal(context, forms) is { } refusal)
            return refusal;
        if (context.Request.ContentType != "application/offset+octet-stream")
            return Says(415, "A part of a file is sent as application/offset+octet-stream.");
        if (!TryNumber(context, "Upload-Offset", out var offset))
            return Says(400, "Upload-Offset must say where the part goes.");
        switch (await files.Add(requestContext.Viewer, key, offset, context.Request.Body, context.RequestAborted))
        {
            case Outcome<long>.Done { Value: var received }:
                context.Response.Headers["Upload-Offset"] = received.ToString(CultureInfo.InvariantCulture);
                return Results.NoContent();
            case Outcome<long>.Refused refused:
                return Says(422, refused.Problems[0].Message);
            case Outcome<long>.Stale:
                return Says(409, "The file goes on at another place. Ask where.");
            default:
                return Says(404, "This file is not under way any more. Send it again.");
        }
    }

    private static async Task<IResult> Delete(
        UploadKey key,
        HttpContext context,
        SendFiles files,
        RequestContext requestContext,
        IAntiforgery forms
    ) =>
        await Refusal(context, forms)
        ?? (files.Drop(requestContext.Viewer, key) ? Results.NoContent() : Results.NotFound());

    private static async Task<IResult?> Refusal(HttpContext context, IAntiforgery forms)
    {
        if (Unversioned(context) is { } refusal)
            return refusal;
        return await forms.IsRequestValidAsync(context)
            ? null
            : Says(403, "The page was open too long. Load it again.");
    }

    // Which version is spoken comes with every answer; one that is not known is told what is.
    private static IResult? Unversioned(HttpContext context)
    {
        context.Response.Headers["Tus-Resumable"] = Version;
        if (context.Features.Get<IStatusCodePagesFeature>() is { } pages)
            pages.Enabled = false;
        if (context.Request.Headers["Tus-Resumable"] == Version)
            return null;
        context.Response.Headers["Tus-Version"] = Version;
        return Results.StatusCode(StatusCodes.Status412PreconditionFailed);
    }

    private static bool TryNumber(HttpContext context, string header, out long number) =>
        long.TryParse(context.Request.Headers[header], NumberStyles.None, CultureInfo.InvariantCulture, out number);

    // "filename d29ybGQ=,…": pairs with commas between them, values in Base64.
    private static bool TryName(string metadata, out string name)
    {
        name = "";
        if (metadata.Length > 4000)
            return false;
        foreach (var pair in metadata.Split(','))
        {
            if (pair.Trim().Split(' ') is not ["filename", var value])
                continue;
            var bytes = new byte[value.Length];
            if (!Convert.TryFromBase64String(value, bytes, out var length))
                return false;
            name = Encoding.UTF8.GetString(bytes, 0, length);
            return name.Length > 0;
        }

        return false;
    }

    private static IResult Says(int status, string text) => Results.Text(text, "text/plain", Encoding.UTF8, status);
}
