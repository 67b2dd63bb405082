/**
 * What packages for learning platforms say of themselves.
 *
 * @see IMS Content Packaging 1.1.2 and 1.1.4; SCORM 1.2 Content Aggregation Model, §2.3; SCORM 2004 4th edition, Content Aggregation Model, §3 and §5;
 * cmi5 (Quartz), §13 and §14; IMS Common Cartridge 1.3, §4
 */
import { escapedXml, XML_HEAD } from './xml.ts'

export interface PackagedLecture {
  lectureId: string
  editionId: string
  title: string
  language: string
  /** One sentence. */
  description: string
  /** Names of all files in the package but the manifest itself. */
  files: readonly string[]
}

const address = (path: string) => path.split('/').map(encodeURIComponent).join('/')

/** The same for all editions of a lecture: a platform takes a newer one for the same course. */
export const activityOf = ({ lectureId }: Pick<PackagedLecture, 'lectureId'>) => `urn:uuid:${lectureId}`

const filesOf = ({ files }: PackagedLecture) => files.map((file) => `<file href="${escapedXml(address(file))}"/>`).join('')

export function scorm12Manifest(lecture: PackagedLecture): string {
  const title = escapedXml(lecture.title)
  return `${XML_HEAD}
<manifest identifier="LECTURE-${lecture.lectureId}" version="1.0" xmlns="http://www.imsproject.org/xsd/imscp_rootv1p1p2" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_rootv1p2">
  <metadata><schema>ADL SCORM</schema><schemaversion>1.2</schemaversion></metadata>
  <organizations default="ORGANIZATION">
    <organization identifier="ORGANIZATION">
      <title>${title}</title>
      <item identifier="ITEM" identifierref="PAGE" isvisible="true"><title>${title}</title></item>
    </organization>
  </organizations>
  <resources>
    <resource identifier="PAGE" type="webcontent" adlcp:scormtype="sco" href="index.html">${filesOf(lecture)}</resource>
  </resources>
</manifest>
`
}

export function scorm2004Manifest(lecture: PackagedLecture): string {
  const title = escapedXml(lecture.title)
  return `${XML_HEAD}
<manifest identifier="LECTURE-${lecture.lectureId}" version="1.0" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_v1p3" xmlns:adlseq="http://www.adlnet.org/xsd/adlseq_v1p3" xmlns:adlnav="http://www.adlnet.org/xsd/adlnav_v1p3" xmlns:imsss="http://www.imsglobal.org/xsd/imsss">
  <metadata><schema>ADL SCORM</schema><schemaversion>2004 4th Edition</schemaversion></metadata>
  <organizations default="ORGANIZATION">
    <organization identifier="ORGANIZATION">
      <title>${title}</title>
      <item identifier="ITEM" identifierref="PAGE" isvisible="true">
        <title>${title}</title>
        <imsss:sequencing><imsss:deliveryControls tracked="true" completionSetByContent="true" objectiveSetByContent="true"/></imsss:sequencing>
      </item>
      <imsss:sequencing><imsss:controlMode choice="true" flow="true"/></imsss:sequencing>
    </organization>
  </organizations>
  <resources>
    <resource identifier="PAGE" type="webcontent" adlcp:scormType="sco" href="index.html">${filesOf(lecture)}</resource>
  </resources>
</manifest>
`
}

const langstring = (language: string, text: string) =>
  `<langstring lang="${escapedXml(language)}">${escapedXml(text)}</langstring>`

export function cmi5Structure(lecture: PackagedLecture): string {
  const { language, title, description } = lecture
  const said = `<title>${langstring(language, title)}</title><description>${langstring(language, description)}</description>`
  return `${XML_HEAD}
<courseStructure xmlns="https://w3id.org/xapi/profiles/cmi5/v1/CourseStructure.xsd">
  <course id="${activityOf(lecture)}">${said}</course>
  <au id="${activityOf(lecture)}#lecture" moveOn="Completed" launchMethod="AnyWindow">${said}<url>index.html</url></au>
</courseStructure>
`
}

/** Common practice, no published source: how xAPI packages are told apart by platforms that take them. */
export function xapiManifest(lecture: PackagedLecture): string {
  const { language, title, description } = lecture
  const lang = escapedXml(language)
  return `${XML_HEAD}
<tincan xmlns="http://projecttincan.com/tincan.xsd">
  <activities>
    <activity id="${activityOf(lecture)}" type="http://adlnet.gov/expapi/activities/course">
      <name>${escapedXml(title)}</name>
      <description lang="${lang}">${escapedXml(description)}</description>
      <launch lang="${lang}">index.html</launch>
    </activity>
  </activities>
</tincan>
`
}

/** @param link where the lecture can be watched; null for a cartridge that holds all of it */
export function cartridgeManifest(lecture: PackagedLecture, link: string | null): string {
  const title = escapedXml(lecture.title)
  const resource = link
    ? '<resource identifier="PAGE" type="imswl_xmlv1p3"><file href="lecture.xml"/></resource>'
    : `<resource identifier="PAGE" type="webcontent" href="index.html">${filesOf(lecture)}</resource>`
  return `${XML_HEAD}
<manifest identifier="LECTURE-${lecture.lectureId}" xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1" xmlns:lomimscc="http://ltsc.ieee.org/xsd/imsccv1p3/LOM/manifest">
  <metadata>
    <schema>IMS Common Cartridge</schema>
    <schemaversion>1.3.0</schemaversion>
    <lomimscc:lom><lomimscc:general><lomimscc:title><lomimscc:string language="${escapedXml(lecture.language)}">${title}</lomimscc:string></lomimscc:title></lomimscc:general></lomimscc:lom>
  </metadata>
  <organizations>
    <organization identifier="ORGANIZATION" structure="rooted-hierarchy">
      <item identifier="ROOT"><item identifier="ITEM" identifierref="PAGE"><title>${title}</title></item></item>
    </organization>
  </organizations>
  <resources>${resource}</resources>
</manifest>
`
}

export const webLink = ({ title }: Pick<PackagedLecture, 'title'>, link: string): string => `${XML_HEAD}
<webLink xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imswl_v1p3"><title>${escapedXml(title)}</title><url href="${escapedXml(link)}" target="_blank"/></webLink>
`
