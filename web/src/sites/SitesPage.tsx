import { Alert, Button, Input, InputNumber, Popconfirm, Progress, Select, Upload } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { isBusy } from "../api/cache";
import { Refused, type Session, type Site, uploadArchive } from "../api/client";
import { useDelete, useEditSite, useNewer, useSites, useVisit } from "../api/sites";
import { Bar } from "../frame/Bar";
import { count, disk, kB, moment } from "../ui/format";
import { COLOURS, KINDS } from "../ui/kinds";
import { Trouble } from "../frame/Trouble";
import { Waiting } from "../ui/Waiting";
import { People } from "./People";

const TAKEN = ".zip,.har,.warc,.gz,application/zip";

interface Sending {
  name: string;
  share: number;
}

/** The sites, and the place to drop a ZIP file: dropping one leads to its bench with no further question. */
export default function SitesPage({ session }: { session: Session }) {
  const sites = useSites();
  const navigate = useNavigate();
  const [upload, setUpload] = useState<Sending | null>(null);
  const [problem, setProblem] = useState("");

  async function take(file: File | undefined) {
    if (!file || upload) return;
    setProblem("");
    if (file.size > session.upload_limit) {
      setProblem(
        `${file.name}: is larger than the limit of ${count(session.upload_limit / 1e6)} MB. ` +
          "Upload a smaller archive, or ask for a higher limit.",
      );
      return;
    }
    setUpload({ name: file.name, share: 0 });
    try {
      const site = await uploadArchive(file, (share) => setUpload({ name: file.name, share }));
      void navigate(`/sites/${site.id}/sort`);
    } catch (error) {
      setProblem(error instanceof Refused ? error.message : String(error));
    } finally {
      setUpload(null);
    }
  }

  if (sites.error) return <Trouble error={sites.error} again={() => void sites.refetch()} />;
  return (
    <div className="page">
      <Bar session={session} />
      <main className="wide">
        <Upload.Dragger
          className="drop"
          accept={TAKEN}
          showUploadList={false}
          disabled={upload !== null}
          data-testid="archive"
          beforeUpload={(file) => {
            void take(file);
            return false;
          }}
        >
          {upload ? (
            <div className="drop-progress" role="status">
              <b>{upload.name}</b>
              <Progress percent={Math.round(upload.share * 100)} size="small" />
              <span className="soft">{upload.share < 1 ? "Uploading" : "Reading the archive"}</span>
            </div>
          ) : (
            <>
              <h1>Drop a website here</h1>
              <p className="soft">
                A ZIP file with pages, images, styles and scripts, or a HAR or WARC recording. The site is weighed at
                once. Your files stay unchanged.
              </p>
              <span className="as-button">Choose a file</span>
            </>
          )}
        </Upload.Dragger>
        <ByAddress onTaken={(site) => void navigate(`/sites/${site.id}/sort`)} />
        {problem && (
          <Alert
            type="error"
            showIcon
            closable={{ onClose: () => setProblem("") }}
            title="This site could not be added"
            description={problem}
            className="gap-above"
          />
        )}
        {!sites.data && <Waiting />}
        {sites.data && sites.data.length > 0 && <SiteList username={session.username} sites={sites.data} />}
        {session.stored > 0 && (
          <p className="soft gap-above">
            Your sites use {disk(session.stored)} of your quota of {disk(session.storage_limit)}.
          </p>
        )}
      </main>
    </div>
  );
}

type Which = "0" | "1" | "2" | "3" | "sitemap" | "list";
const words = (text: string, by: string) =>
  text
    .split(by)
    .map((word) => word.trim())
    .filter(Boolean);

/** The other way in: the browser visits the live pages and records them. */
function ByAddress({ onTaken }: { onTaken: (site: Site) => void }) {
  const visit = useVisit();
  const [address, setAddress] = useState("");
  const [pages, setPages] = useState<number | null>(5);
  const [which, setWhich] = useState<Which>("1");
  const [lines, setLines] = useState("");
  const [only, setOnly] = useState("");
  const many = which === "sitemap" || which === "list";
  return (
    <form
      className="by-address"
      onSubmit={(event) => {
        event.preventDefault();
        if (!address.trim()) return;
        visit.mutate(
          {
            address,
            depth: many ? 0 : Number(which),
            pages: pages ?? 1,
            sitemap: which === "sitemap",
            listed: which === "list" ? words(lines, "\n") : [],
            only: words(only, ","),
          },
          { onSuccess: onTaken },
        );
      }}
    >
      <label htmlFor="address">Or record your live site</label>
      <Input
        id="address"
        placeholder="https://www.merrow.example/"
        value={address}
        onChange={(event) => setAddress(event.target.value)}
      />
      <Select
        aria-label="Links to follow"
        value={which}
        onChange={(value) => {
          setWhich(value);
          if (value === "sitemap" || value === "list") setPages(2000);
        }}
        options={[
          { value: "0", label: "This page only" },
          { value: "1", label: "This page and its links" },
          { value: "2", label: "Two links deep" },
          { value: "3", label: "Three links deep" },
          { value: "sitemap", label: "Pages in the sitemap" },
          { value: "list", label: "A list of pages" },
        ]}
      />
      <InputNumber
        aria-label="Maximum number of pages"
        min={1}
        max={2000}
        value={pages}
        onChange={setPages}
        suffix="pages"
      />
      <Button htmlType="submit" disabled={!address.trim()} loading={visit.isPending}>
        Visit
      </Button>
      {which === "list" && (
        <Input.TextArea
          aria-label="Pages, one per line"
          className="more"
          rows={3}
          placeholder={"/about/\n/blog/first.html"}
          value={lines}
          onChange={(event) => setLines(event.target.value)}
        />
      )}
      {which !== "0" && (
        <Input
          aria-label="Only pages that match"
          className="more"
          placeholder="Only pages that match, such as /blog/*, /shop/* (empty: all)"
          value={only}
          onChange={(event) => setOnly(event.target.value)}
        />
      )}
      {(pages ?? 0) > 50 && (
        <p className="soft more">
          Above 50 pages, the browser opens one page of each structure. Of the other pages only their files are fetched.
        </p>
      )}
      {visit.error && (
        <p role="alert" className="missing">
          {visit.error.message}
        </p>
      )}
    </form>
  );
}

/** All sites, of which words, tags and what was put away pick some. */
function SiteList({ sites, username }: { sites: Site[]; username: string }) {
  const [words, setWords] = useState("");
  const [tag, setTag] = useState("");
  const [away, setAway] = useState(false);
  const tags = [...new Set(sites.flatMap((site) => site.tags))].sort();
  const put = sites.filter((site) => site.archived).length;
  const shown = sites.filter(
    (site) =>
      site.archived === away &&
      (tag === "" || site.tags.includes(tag)) &&
      `${site.name} ${site.tags.join(" ")}`.toLowerCase().includes(words.toLowerCase()),
  );
  const heaviest = Math.max(...shown.map((site) => site.before ?? 0), 1);
  return (
    <>
      <div className="sites-head">
        <Input.Search
          allowClear
          placeholder="Name or tag"
          aria-label="Find a site"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        {tags.length > 0 && (
          <Select
            aria-label="Tag"
            value={tag}
            onChange={setTag}
            options={[{ value: "", label: "All tags" }, ...tags.map((name) => ({ value: name, label: name }))]}
          />
        )}
        {put > 0 && (
          <Button type="link" onClick={() => setAway(!away)}>
            {away ? "Show active sites" : `Show ${count(put)} archived`}
          </Button>
        )}
      </div>
      <table className="sites">
        <caption className="unseen">Your sites</caption>
        <thead>
          <tr>
            <th>Site</th>
            <th className="n">Pages</th>
            <th className="n">Files</th>
            <th>As found and now</th>
            <th className="n">Weight over all weigh-ins</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {shown.map((site) => (
            <SiteRow key={site.id} site={site} heaviest={heaviest} username={username} />
          ))}
        </tbody>
      </table>
      {shown.length === 0 && <p className="soft">No sites match.</p>}
    </>
  );
}

/** A small beam: by kind, as found above and now below. */
function SmallBeam({ site, heaviest }: { site: Site; heaviest: number }) {
  const rows = [site.kinds_before, site.after === null ? site.kinds_before : site.kinds_after];
  return (
    <svg viewBox="0 0 100 14" preserveAspectRatio="none" aria-hidden="true">
      {rows.map((kinds, row) => {
        let x = 0;
        return KINDS.map((kind) => {
          const width = ((kinds[kind] ?? 0) / heaviest) * 100;
          const at = x;
          x += width;
          return (
            width > 0 && (
              <rect key={`${row} ${kind}`} x={at} y={row * 8} width={width} height="6" fill={COLOURS[kind]} />
            )
          );
        });
      })}
    </svg>
  );
}

/** Tags of a site, edited where they stand. */
function Tags({ site }: { site: Site }) {
  const edit = useEditSite();
  const [open, setOpen] = useState(false);
  if (!open) {
    return (
      <button type="button" className="plain tags" onClick={() => setOpen(true)} aria-label={`Tags of ${site.name}`}>
        {site.tags.length > 0 ? site.tags.map((tag) => <span key={tag}>{tag}</span>) : "Add a tag"}
      </button>
    );
  }
  return (
    <Select
      mode="tags"
      size="small"
      autoFocus
      defaultOpen
      aria-label={`Tags of ${site.name}`}
      defaultValue={site.tags}
      style={{ width: "100%" }}
      onChange={(tags: string[]) => edit.mutate({ id: site.id, tags })}
      onBlur={() => setOpen(false)}
    />
  );
}

function SiteRow({ site, heaviest, username }: { site: Site; heaviest: number; username: string }) {
  const edits = site.role !== "look";
  const remove = useDelete();
  const edit = useEditSite();
  return (
    <tr>
      <td className="what">
        <Link to={`/sites/${site.id}/sort`} title={site.name}>
          <b dir="auto">{site.name}</b>
        </Link>
        <small>{site.looked ? `weighed ${moment(site.looked)}` : moment(site.created)}</small>
        {edits && <Tags site={site} />}
      </td>
      <td className="n">{count(site.pages)}</td>
      <td className="n">{count(site.files)}</td>
      <td className="pair">
        {site.before !== null ? (
          <>
            <SmallBeam site={site} heaviest={heaviest} />
            <small className={site.over > 0 ? "over" : ""}>
              {site.over > 0
                ? `${count(site.over)} ${site.over === 1 ? "weigh-in" : "weigh-ins"} over ${kB(site.allowance)}`
                : `all weigh-ins within ${kB(site.allowance)}`}
            </small>
            {site.grown > 0 && (
              <small className="over">
                the live site grew by {kB(site.grown)}, loaded by {site.grown_by.join(", ")}
              </small>
            )}
          </>
        ) : (
          <span className="soft">{stateOf(site)}</span>
        )}
      </td>
      <td className="n">
        {site.before !== null && (
          <>
            {kB(site.after ?? site.before)}
            <small>
              {site.after !== null ? `was ${kB(site.before)}` : isBusy(site.job) ? stateOf(site) : "no run yet"}
            </small>
          </>
        )}
      </td>
      <td className="n actions">
        <People site={site} username={username} />{" "}
        {edits && (
          <>
            <Newer site={site} />
            <Button
              size="small"
              loading={edit.isPending}
              title={site.archived ? "" : "Hides the site; keeps its data"}
              onClick={() => edit.mutate({ id: site.id, archived: !site.archived })}
            >
              {site.archived ? "Restore" : "Archive"}
            </Button>{" "}
          </>
        )}
        {site.role === "own" && (
          <Popconfirm
            title={`Delete ${site.name}?`}
            description="This deletes its files, weigh-ins and runs."
            okText="Delete"
            cancelText="Keep"
            onConfirm={() => remove.mutate(site.id)}
          >
            <Button size="small" loading={remove.isPending} aria-label={`Delete ${site.name}`}>
              Delete
            </Button>
          </Popconfirm>
        )}
      </td>
    </tr>
  );
}

/** A newer copy of the same site: the plan stays, and only what is new or changed is tried out. */
function Newer({ site }: { site: Site }) {
  const send = useNewer(site.id);
  return (
    <>
      <Upload
        accept={TAKEN}
        showUploadList={false}
        disabled={isBusy(site.job) || send.isPending}
        aria-label={`Upload a newer copy of ${site.name}`}
        beforeUpload={(file) => {
          send.mutate(file);
          return false;
        }}
      >
        <Button
          size="small"
          disabled={isBusy(site.job)}
          loading={send.isPending}
          title="Keeps the plan; tries out new and changed files only"
        >
          Upload newer copy
        </Button>
      </Upload>
      {send.error && (
        <small role="alert" className="missing">
          {send.error.message}
        </small>
      )}
    </>
  );
}

function stateOf(site: Site): string {
  if (site.job?.state === "failed") return `failed: ${site.job.error}`;
  if (!isBusy(site.job)) return "not weighed";
  if (site.job?.kind === "record" && site.pages === 0) return "being recorded";
  return site.pages === 0 ? "being read" : "being weighed";
}
