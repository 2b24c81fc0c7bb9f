using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.JoinLinks;

namespace JollyAlmanac.Application.Joining;

/// <summary>Tests the room behind a link: its form, and where it can be asked, whether it is there. Only when somebody says so.</summary>
public sealed class TestLink(Gate gate, RoomProviders rooms, ILinkProbe? probe = null)
{
    /// <summary>Tests a link and notes what was found.</summary>
    /// <returns>What was found, in a sentence.</returns>
    public async Task<Outcome<string>> Do(Viewer viewer, JoinCode code, CancellationToken cancellation)
    {
        var found = gate.Read<JoinTarget>(Operation.TestJoinLink, viewer, code, at => new Outcome<JoinTarget>.Done(
            at.Stores.JoinLinks.TargetOf(at.Link.Id)
        ));
        if (found is not Outcome<JoinTarget>.Done { Value: var target })
            return found.Then<string>(_ => new Outcome<string>.NotFound());
        string? wrong;
        try
        {
            wrong = rooms.Of(target.Provider) is { } provider
                ? await rooms.Ask(provider, (one, ends) => one.EntranceOf(target.Room, ends), cancellation) is null
                    ? $"{provider.Name} has no such room any more. Renew the link."
                    : null
                : !target.IsReadable
                    ? "Its address cannot be read as it is stored. Paste it again."
                    : FormOf(target.Address) ?? (probe is null ? null : await probe.Ask(target.Address, cancellation));
        }
        catch (RoomProviderException failure)
        {
            wrong = failure.Message;
        }

        var how =
            target.Provider.Length > 0 ? "its provider has the room"
            : probe is null ? "its form is right; whether it answers was not asked here"
            : "it answers";
        return gate.Write<string>(Operation.TestJoinLink, viewer, code, at =>
        {
            at.Stores.JoinLinks.NoteTest(at.Link.Id, at.Now, wrong ?? "");
            at.Note($"tested the join link {at.Link.Name}{(wrong is null ? "" : ", which failed")}");
            return new Outcome<string>.Done(
                wrong is null ? $"{at.Link.Name} passed its test: {how}." : $"{at.Link.Name} failed: {wrong}"
            );
        });
    }

    /// <summary>What is wrong with an address before anybody asks it; null for nothing.</summary>
    public static string? FormOf(Uri address)
    {
        if (address.Scheme != Uri.UriSchemeHttps)
            return "Its address starts with http://, so what is said there can be listened to on the way. Ask the room's provider for one with https://.";
        return OutsideHosts.NamesInside(address)
            ? $"Its host {address.IdnHost} lies inside your own network, where people from outside cannot reach it."
            : null;
    }
}
